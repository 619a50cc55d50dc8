"""Messages waiting for a window: nothing is lost that matters, and nothing old is sent."""

import pytest

from texallon.api.windows import Window


def test_a_newer_picture_replaces_one_not_yet_sent() -> None:
    window = Window("s", 1)
    for serial in range(5):
        window.push({"kind": "picture", "serial": serial}, b"jpeg")
    assert window.next(0) == ({"kind": "picture", "serial": 4}, b"jpeg")
    assert window.next(0) is None


def test_everything_else_is_kept_in_order_and_goes_first() -> None:
    window = Window("s", 1)
    window.push({"kind": "picture"}, b"")
    for number in range(3):
        window.push({"kind": "revision", "revision": number})
    kinds = [window.next(0)[0].get("revision", "picture") for _ in range(4)]
    assert kinds == [0, 1, 2, "picture"]


def test_cells_not_yet_sent_are_joined() -> None:
    window = Window("s", 1)
    window.push({"kind": "sheet", "look": "a", "cells": {"0/where": 1, "1/where": 1}, "gone": ["2/where"]})
    window.push({"kind": "sheet", "look": "a", "cells": {"1/where": 2, "2/where": 2}, "gone": ["3/where"]})
    head, _ = window.next(0)
    assert head["cells"] == {"0/where": 1, "1/where": 2, "2/where": 2}
    assert head["gone"] == ["3/where"]
    window.push({"kind": "sheet", "look": "a", "cells": {"0/where": 1}, "gone": []})
    window.push({"kind": "sheet", "look": "b", "cells": {"0/where": 9}, "gone": []})
    assert window.next(0)[0]["look"] == "b"


def test_a_closed_window_ends_its_sender() -> None:
    window = Window("s", 1)
    window.close()
    with pytest.raises(EOFError):
        window.next(1)
