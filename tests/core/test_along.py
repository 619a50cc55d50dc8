"""Locators that stand along the line of a tube, held against circles, straight lines and finite differences."""

from typing import Any

import numpy as np
import pytest

from tests.builders import document, layer, look
from texallon.core.document import read_shot
from texallon.core.document.along import place_on
from texallon.core.document.body import Tube
from texallon.core.document.problem import DocumentError
from texallon.core.document.resolved import resolve
from texallon.core.signal.placement import Places

ANGLES = np.linspace(0, 2 * np.pi, 32, endpoint=False)
RING = [[float(np.cos(a)), 0.0, float(-np.sin(a))] for a in ANGLES]
"""A circle of 1 m, against the clock as seen from above."""


def shot_of(locator: dict[str, Any], tube: dict[str, Any], **members: Any) -> Any:
    rail = {"name": "rail", "geometry": {"shape": "tube", **tube}, "look": "l", "visible": False}
    placed = rail | members.pop("rail", {})
    locators = [{"name": "cart", "along": "rail", **locator}, *members.pop("locators", [])]
    return read_shot(document(objects=[placed], locators=locators, looks=[look("l", layer("b"))], **members))


def test_on_a_straight_line_a_share_is_a_share_of_the_way_however_its_points_lie() -> None:
    uneven = Tube(shape="tube", points=[(0, 0, 0), (0.1, 0, 0), (0.7, 0, 0), (4, 0, 0)])
    for share in (-1.0, 0.0, 0.25, 0.6, 1.0, 7.0):
        at = place_on(uneven, share)
        assert at.position == pytest.approx([4 * min(max(share, 0), 1), 0, 0], abs=0.03)
        assert at.way == pytest.approx([1, 0, 0], abs=1e-9)
    straight = uneven.model_copy(update={"smooth": False})
    assert place_on(straight, 0.6).position == pytest.approx([2.4, 0, 0], abs=1e-12)


def test_round_a_circle_it_goes_evenly_and_comes_round_again() -> None:
    ring = Tube(shape="tube", points=RING, closed=True)
    for share in (0.0, 0.13, 0.5, 0.77, 1.13, -0.87):
        at = place_on(ring, share)
        angle = 2 * np.pi * share
        # Between 32 points a smooth line leaves the circle by less than a ten-thousandth.
        assert at.position == pytest.approx([np.cos(angle), 0, -np.sin(angle)], abs=1e-3)
        assert at.way == pytest.approx([-np.sin(angle), 0, -np.cos(angle)], abs=3e-3)


def test_the_way_is_the_derivative_of_the_place_and_never_jumps() -> None:
    turn = np.linspace(0, 9, 12)
    spiral = np.stack([np.cos(turn) * (1 + turn / 9), turn / 4, np.sin(turn)], axis=1)
    bent = Tube(shape="tube", points=[tuple(each) for each in spiral.tolist()])
    shares = np.linspace(0.001, 0.999, 1501)
    found = [place_on(bent, float(share)) for share in shares]
    ways = np.array([each.way for each in found])
    assert np.abs(np.linalg.norm(ways, axis=1) - 1).max() < 1e-12
    assert np.linalg.norm(np.diff(ways, axis=0), axis=1).max() < 0.03
    steps = np.diff(np.array([each.position for each in found]), axis=0)
    even = np.linalg.norm(steps, axis=1)
    assert even.std() / even.mean() < 0.01, "equal shares are equal ways"
    cosine = (steps / even[:, None] * (ways[1:] + ways[:-1]) / 2).sum(axis=1)
    assert np.percentile(cosine, 1) > 0.995


def test_a_locator_stands_on_the_line_of_an_object_wherever_that_stands() -> None:
    shot = shot_of(
        {"along_share": 0.5, "position": [0, 0.2, 0]},
        {"points": [[0, 0, 0], [2, 0, 0]], "smooth": False},
        rail={"position": [5, 0, 0], "rotation": [0, 90, 0], "scale": 2.0},
    )
    matrix = Places(resolve(shot)).locator("cart")
    # Turned by 90° about y, x goes to −z; twice as large.
    assert matrix[:3, 3] == pytest.approx([5, 0.4, -2], abs=1e-9)
    assert matrix[:3, 2] == pytest.approx([0, 0, -2], abs=1e-9), "its z axis goes the way of the line"
    assert matrix[:3, 1] == pytest.approx([0, 2, 0], abs=1e-9), "and its y axis upwards"


def test_it_keeps_its_own_turn_unless_it_is_turned_by_the_line_and_may_aim_at_another() -> None:
    tube = {"points": [[0, 0, 0], [2, 0, 0]], "smooth": False}
    kept = Places(resolve(shot_of({"turns_along": False, "rotation": [0, 30, 0]}, tube))).locator("cart")
    assert kept[:3, 2] == pytest.approx([0.5, 0, np.sqrt(0.75)], abs=1e-9)
    beside = Places(resolve(shot_of({"rotation": [0, 30, 0]}, tube))).locator("cart")
    assert beside[:3, 2] == pytest.approx([np.sqrt(0.75), 0, -0.5], abs=1e-9)
    mark = {"name": "mark", "position": [0, 3, 0]}
    aimed = Places(resolve(shot_of({"aims_at": "mark"}, tube, locators=[mark]))).locator("cart")
    assert aimed[:3, 2] == pytest.approx([0, 1, 0], abs=1e-9)


def test_it_goes_along_by_keys_and_by_formulas_and_the_line_may_move() -> None:
    shot = shot_of(
        {"id": "cart"},
        {"points": [[0, 0, 0], [2, 0, 0]], "smooth": False},
        rail={"id": "rail"},
        frames={"first": 1, "last": 11, "rate": 10},
        tracks=[
            {"at": "/locators/cart/along_share", "formula": "share"},
            {"at": "/objects/rail/position/1", "keys": [{"frame": 1, "value": 0}, {"frame": 11, "value": 1}]},
        ],
    )
    for frame in (1, 4, 11):
        share = (frame - 1) / 10
        assert Places(resolve(shot, frame)).locator("cart")[:3, 3] == pytest.approx([2 * share, share, 0], abs=1e-9)


def test_a_line_that_is_one_point_places_it_there() -> None:
    where = Places(resolve(shot_of({"along_share": 0.4}, {"points": [[1, 2, 3], [1, 2, 3]]}))).locator("cart")
    assert where[:3, 3] == pytest.approx([1, 2, 3])


@pytest.mark.parametrize(
    ("locator", "rail", "where", "words"),
    [
        ({"along": "rial"}, {}, "/locators/0/along", "rail"),
        ({}, {"geometry": {"shape": "box"}}, "/locators/0/along", "is no tube"),
        ({"follows": "rail"}, {}, "/locators/0/follows", "stands along"),
        ({}, {"follows": "cart"}, "/objects/0", "circle"),
        ({"along_share": 1e7}, {}, "/locators/0/along_share", "1000000"),
    ],
)
def test_what_is_wrong_with_a_line_is_said(
    locator: dict[str, Any], rail: dict[str, Any], where: str, words: str
) -> None:
    with pytest.raises(DocumentError) as caught:
        shot_of(locator, {"points": [[0, 0, 0], [2, 0, 0]]}, rail=rail)
    found = {each.pointer: f"{each.reason} {each.hint}" for each in caught.value.problems}
    assert any(at.startswith(where) and words in text for at, text in found.items()), found
