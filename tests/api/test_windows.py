"""Messages waiting for a window: nothing is lost that matters, and nothing old is sent."""

import asyncio
import threading
from collections.abc import Iterator

import pytest

from texallon.api.windows import Window


@pytest.fixture
def window() -> Iterator[Window]:
    loop = asyncio.new_event_loop()
    yield Window("s", 1, loop)
    loop.close()


def test_a_newer_picture_replaces_one_not_yet_sent(window: Window) -> None:
    for serial in range(5):
        window.push({"kind": "picture", "serial": serial}, b"jpeg")
    assert window.take() == ({"kind": "picture", "serial": 4}, b"jpeg")
    assert window.take() is None


def test_everything_else_is_kept_in_order_and_goes_first(window: Window) -> None:
    window.push({"kind": "picture"}, b"")
    for number in range(3):
        window.push({"kind": "revision", "revision": number})
    taken = [window.take() for _ in range(4)]
    assert [each[0].get("revision", "picture") for each in taken if each] == [0, 1, 2, "picture"]


def test_cells_not_yet_sent_are_joined(window: Window) -> None:
    window.push({"kind": "sheet", "look": "a", "cells": {"0/where": 1, "1/where": 1}, "gone": ["2/where"]})
    window.push({"kind": "sheet", "look": "a", "cells": {"1/where": 2, "2/where": 2}, "gone": ["3/where"]})
    taken = window.take()
    assert taken is not None
    assert taken[0]["cells"] == {"0/where": 1, "1/where": 2, "2/where": 2}
    assert taken[0]["gone"] == ["3/where"]
    window.push({"kind": "sheet", "look": "a", "cells": {"0/where": 1}, "gone": []})
    window.push({"kind": "sheet", "look": "b", "cells": {"0/where": 9}, "gone": []})
    taken = window.take()
    assert taken is not None and taken[0]["look"] == "b"


def test_nothing_is_put_in_line_for_a_closed_window(window: Window) -> None:
    window.close()
    window.push({"kind": "picture"}, b"")
    assert window.take() is None


def test_messages_from_many_threads_all_come_in_the_order_of_each() -> None:
    async def listen() -> list[tuple[int, int]]:
        window = Window("s", 1, asyncio.get_running_loop())

        def write(writer: int) -> None:
            for number in range(200):
                window.push({"kind": "revision", "of": (writer, number)})

        writers = [threading.Thread(target=write, args=(each,)) for each in range(5)]
        for each in writers:
            each.start()
        return [(await window.next())[0]["of"] for _ in range(1000)]

    heard = asyncio.run(listen())
    for writer in range(5):
        assert [number for of, number in heard if of == writer] == list(range(200))
