"""Keys of any number of a shot: `resolve` puts their values over what stands there, and what is amiss is named."""

from typing import Any

import numpy as np
import pytest

from tests import builders
from tests.builders import MadeFiles, layer, look, recipe, step, value
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.ids import complete_ids
from texallon.core.document.resolved import resolve
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.check_recipes import check_shot


def document(**members: Any) -> dict[str, Any]:
    glow = {"recipe": recipe(step("constant", value=[1.0, 1.0, 1.0]), step("multiply", by=2.0))}
    shades = look(
        "shade", layer("base", base_color=value([0.2] * 3), emission_color=glow, emission_luminance=value(1.0))
    )
    ball = {"name": "ball", "look": "shade", "geometry": {"shape": "sphere", "radius": 0.5}}
    lamp = {"name": "lamp", "shape": "point", "power": 10.0, "position": [0, 3, 0], "target": [0, 0, 0]}
    made: dict[str, Any] = complete_ids(builders.document(looks=[shades], objects=[ball], lights=[lamp], **members))
    return made


def ramp(at: str, first: float, last: float, **more: Any) -> dict[str, Any]:
    interpolation = {"interpolation": "linear"}
    return {
        "at": at,
        "keys": [{"frame": 1, "value": first, **interpolation}, {"frame": 11, "value": last, **interpolation}],
        **more,
    }


def ids(made: dict[str, Any]) -> dict[str, str]:
    shade = made["looks"][0]
    channel = shade["layers"][0]["channels"]["emission_color"]["recipe"]["steps"][1]
    base = f"/looks/{shade['id']}/layers/{shade['layers'][0]['id']}"
    return {
        "power": f"/lights/{made['lights'][0]['id']}/power",
        "y": f"/objects/{made['objects'][0]['id']}/position/1",
        "radius": f"/objects/{made['objects'][0]['id']}/geometry/radius",
        "by": f"{base}/channels/emission_color/recipe/steps/{channel['id']}/params/by",
        "opacity": f"{base}/opacity",
        "lens": "/camera/focal_length",
        "sky": "/environment/rotation",
    }


PLACES = {
    "power": (0.0, 40.0),
    "y": (-1.0, 1.0),
    "radius": (0.5, 1.5),
    "by": (0.0, 3.0),
    "opacity": (0.0, 1.0),
    "lens": (20.0, 90.0),
    "sky": (0.0, 360.0),
}


def found(shot: Any, place: str) -> float:
    item, shade = shot.objects[0], shot.looks[0].layers[0]
    return float(
        {
            "power": shot.lights[0].power, "y": item.position[1], "radius": item.geometry.radius, "opacity": shade.opacity,
            "by": shade.channels["emission_color"].recipe.steps[1].params["by"],
            "lens": shot.camera.focal_length, "sky": shot.environment.rotation,
        }[place]
    )  # fmt: skip


@pytest.mark.parametrize("place", PLACES)
def test_any_number_takes_keys(place: str) -> None:
    made = document()
    low, high = PLACES[place]
    shot = read_shot({**made, "tracks": [ramp(ids(made)[place], low, high)]})
    assert check_shot(shot) == []
    for frame in (1, 3.5, 11, 40):
        assert found(resolve(shot, frame), place) == pytest.approx(low + (high - low) * min(frame - 1, 10) / 10)


def test_a_named_number_with_keys_moves_all_that_uses_it() -> None:
    made = document(numbers=[{"name": "heat", "value": 1.0}])
    at = ids(made)
    uses = [{"at": at["power"], "number": "heat", "times": 2.0}]
    step_of = made["looks"][0]["layers"][0]["channels"]["emission_color"]["recipe"]["steps"][1]
    step_of["params"]["by"] = {"number": "heat", "plus": 1.0}
    tracks = [ramp(f"/numbers/{made['numbers'][0]['id']}/value", 0.0, 10.0)]
    shot = resolve(read_shot({**made, "number_uses": uses, "tracks": tracks}), 6)
    assert found(shot, "power") == pytest.approx(10.0) and found(shot, "by") == pytest.approx(6.0)


def test_frames_are_seen_in_the_picture() -> None:
    made = document()
    shot = read_shot({**made, "tracks": [ramp(ids(made)["by"], 0.0, 0.9)]})
    means = [render_frame(resolve(shot, frame), MadeFiles(), 16, 9, 4, 2).picture().mean() for frame in (1, 6, 11)]
    assert means[1] > means[0] + 0.02 and means[2] > means[1] + 0.02


def refused(made: dict[str, Any], **members: Any) -> list[str]:
    with pytest.raises(DocumentError) as caught:
        read_shot({**made, **members})
    return [f"{each.pointer}: {each.reason}" for each in caught.value.problems]


def test_what_is_amiss_is_named_with_its_place() -> None:
    made = document(numbers=[{"name": "n"}])
    at = ids(made)
    cases = {
        "/looks/gone/layers": "/tracks/0/at: there is nothing at /looks/gone/layers",
        "/frames/first": "/tracks/0/at: “frames” has no numbers that can have keys",
        "/objects/0/position/1": "/tracks/0/at: /objects/0/position/1 does not go by ids",
        f"/objects/{made['objects'][0]['id']}/look": f"/tracks/0/at: what stands at /objects/{made['objects'][0]['id']}/look is not a number that can have keys",
    }
    for place, words in cases.items():
        assert refused(made, tracks=[ramp(place, 0, 1)]) == [words]
    twice = [ramp(at["y"], 0, 1), ramp(at["y"], 0, 1)]
    assert refused(made, tracks=twice) == [f"/tracks/1/at: there are keys for {at['y']} already"]
    driven = {"tracks": [ramp(at["power"], 0, 1)], "number_uses": [{"at": at["power"], "number": "n"}]}
    assert refused(made, **driven) == [f"/tracks/0/at: a named number drives {at['power']}"]
    back = {"at": at["y"], "keys": [{"frame": 5, "value": 0}, {"frame": 5, "value": 1}]}
    assert "/tracks/0/keys/1/frame: the key at frame 5 comes after the one at frame 5" in refused(made, tracks=[back])
    assert refused(made, tracks=[ramp(at["power"], 5, -3)]) == [
        "/tracks/0/keys/1/value: " + f"{made['lights'][0]['id']} power can't be -3"
    ]


def test_what_an_op_cannot_have_is_found_at_either_end() -> None:
    made = document()
    noisy = look("shade", layer("base", base_color={"recipe": recipe(step("noise", size=0.5))}))
    made = complete_ids({**made, "looks": [noisy]})
    shade = made["looks"][0]
    channel = shade["layers"][0]["channels"]["base_color"]["recipe"]["steps"][0]
    at = f"/looks/{shade['id']}/layers/{shade['layers'][0]['id']}/channels/base_color/recipe/steps/{channel['id']}/params/size"
    assert check_shot(read_shot({**made, "tracks": [ramp(at, 0.5, 2.0)]})) == []
    (problem,) = check_shot(read_shot({**made, "tracks": [ramp(at, 0.5, -2.0)]}))
    assert problem.pointer.endswith("/params/size")


def test_a_value_that_goes_beyond_a_limit_is_held() -> None:
    made = document()
    shot = read_shot({**made, "tracks": [ramp(ids(made)["power"], 40.0, 10.0, after="go on")]})
    assert found(resolve(shot, 14), "power") == pytest.approx(1.0)
    assert found(resolve(shot, 30), "power") == 10.0  # a lamp can't take light


def test_a_named_number_with_keys_is_checked_where_it_is_used_and_held_there() -> None:
    made = document(numbers=[{"name": "heat", "value": 1.0}])
    at, number = ids(made), f"/numbers/{made['numbers'][0]['id']}/value"
    uses = [{"at": at["power"], "number": "heat"}]
    assert any("would make" in each for each in refused(made, number_uses=uses, tracks=[ramp(number, 5.0, -5.0)]))
    made["looks"][0]["layers"][0]["opacity"] = {"number": "heat"}
    assert any("opacity" in each for each in refused(made, tracks=[ramp(number, 0.0, 3.0)]))
    made["looks"][0]["layers"][0]["opacity"] = 1.0
    shot = read_shot({**made, "number_uses": uses, "tracks": [ramp(number, 40.0, 10.0, after="go on")]})
    assert found(resolve(shot, 14), "power") == pytest.approx(1.0) and found(resolve(shot, 30), "power") == 10.0


def test_a_camera_that_passes_its_target_still_looks_somewhere() -> None:
    made = document(camera={"position": [0, 0, 4], "target": [0, 0, 0]})
    shot = resolve(read_shot({**made, "tracks": [ramp("/camera/position/2", 4.0, -4.0)]}), 6)
    assert shot.camera.position == (0, 0, 0) and shot.camera.target != shot.camera.position
    assert np.isfinite(render_frame(shot, MadeFiles(), 16, 9, 1, 2).picture()).all()
