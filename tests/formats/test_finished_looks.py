"""The looks that ship: each a valid document, drawn on the test body, unlike all others, and with a picture."""

import numpy as np
import pytest
from PIL import Image

from tests.builders import MadeFiles
from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.document.shelf_item import ShelfItem
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.check_recipes import check_shot
from texallon.shelf.finished.all_looks import finished_looks
from texallon.shelf.finished.pictures import picture_of
from texallon.shelf.scene import shelf_scene
from texallon.starter.test_body import turned_body

NAMES = list(finished_looks())
WANTED = [
    "stone",
    "brick",
    "bark",
    "leather",
    "cast iron",
    "brass",
    "copper green",
    "painted wood",
    "wax",
    "porcelain",
    "cloth",
    "soil",
    "sand",
    "snow",
    "ice",
    "glass",
    "milk glass",
    "water",
    "slime",
    "charcoal with embers",
    "soot",
    "gold leaf",
    "pearl",
    "paper",
]


def test_all_that_were_asked_for_ship() -> None:
    assert sorted(NAMES) == sorted(WANTED)


@pytest.mark.parametrize("name", NAMES)
def test_a_look_is_a_valid_document_and_renders(name: str) -> None:
    found = finished_looks()[name]
    assert ShelfItem.model_validate({"looks": [found.look], "tags": list(found.tags), "note": found.note}).name == name
    shot = read_shot(shelf_scene([found.look], name, {"file": "body"}))
    assert check_shot(shot) == []
    picture = render_frame(resolve(shot), MadeFiles(body=turned_body(48)), 20, 20, 4, 2).picture()
    assert np.isfinite(picture).all() and picture.min() >= 0
    assert picture[6:14, 7:13].std() > 1e-3  # something is to be seen there


@pytest.mark.parametrize("name", NAMES)
def test_its_picture_ships_and_no_other_is_like_it(name: str) -> None:
    def pixels(each: str) -> np.ndarray:
        with Image.open(picture_of(each)) as opened:
            assert opened.size == (240, 240)
            return np.asarray(opened.convert("RGB"), np.float64)[60:170, 70:170] / 255

    own = pixels(name)
    assert own.std() > 0.02
    assert min(np.abs(own - pixels(other)).mean() for other in NAMES if other != name) > 0.015
