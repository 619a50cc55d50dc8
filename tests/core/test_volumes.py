"""Volumes through document, plan and renderer: held against closed forms."""

from typing import Any

import numpy as np
import pytest
from scipy import integrate

from tests.builders import layer, look, recipe, step, value
from tests.volumes import NO_SCATTER, ball, box, seen, violations, volume_look, volume_shot
from texallon.core.kernel import kernel
from texallon.core.random_numbers import uniform4
from texallon.core.shade.media.two_lobes import sample_two_lobes

ABSORBS: dict[str, Any] = {**NO_SCATTER, "absorption_color": [1, 0.5, 0]}
COLOURS = np.array([1, 0.5, 0])


def along(axis: str, *more: dict[str, Any], space: str = "world") -> dict[str, Any]:
    """A channel that is a coordinate, and steps after it."""
    return {"recipe": recipe(step("position", read=axis, space=space), *more)}


@pytest.mark.parametrize("density", [0.01, 1.0, 3.0])
@pytest.mark.parametrize("body", [box, ball])
def test_light_passes_by_the_law_of_beer_and_lambert(body: Any, density: float) -> None:
    # Beer–Lambert: exp(−density · length), for each colour by what it absorbs. The body is 1 m across.
    got = seen(volume_shot(volume_look(density=density, **ABSORBS), objects=[body()]))
    assert got == pytest.approx(np.exp(-density * COLOURS), rel=4e-3)  # the picture is 4.5 cm wide


@pytest.mark.parametrize(
    ("placed", "length"),
    [
        ({"position": [0.1, -0.4, 1.0]}, 1),
        ({"position": [0, -1, 0], "scale": 2.0}, 2),
        ({"rotation": [0, 90, 0], "stretch": [2, 1, 1]}, 2),
        ({"stretch": [1, 1, 3]}, 3),
    ],
)
def test_a_body_may_stand_anywhere(placed: dict[str, Any], length: float) -> None:
    got = seen(volume_shot(volume_look(density=0.7, **ABSORBS), objects=[box(**placed)]))
    assert got == pytest.approx(np.exp(-0.7 * length * COLOURS), rel=1e-3)


@pytest.mark.parametrize(
    "body", [{"shape": "box", "rounding": 0.01}, {"shape": "cylinder", "radius": 0.5, "rounding": 0, "segments": 256}]
)
def test_a_closed_mesh_is_filled(body: dict[str, Any]) -> None:
    item = {"name": "body", "look": "mist", "geometry": body, "position": [0, -0.5, 0]}
    got = seen(volume_shot(volume_look(density=1.0, **ABSORBS), objects=[item]))
    assert got == pytest.approx(np.exp(-COLOURS), rel=3e-3)


def test_what_is_hollow_is_empty_within() -> None:
    # A ring seen along its plane: twice through the ring, and nothing in the hole between.
    item = {
        "name": "ring",
        "look": "mist",
        "geometry": {"shape": "torus", "radius": 0.4, "thickness": 0.1, "segments": 256},
        "position": [0, -0.1, 0],
    }
    got = seen(volume_shot(volume_look(density=2.0, **ABSORBS), objects=[item]))
    assert got == pytest.approx(np.exp(-2.0 * 0.4 * COLOURS), rel=8e-3)


@pytest.mark.parametrize(
    ("density", "depth"),
    [
        (along("z", step("multiply", by=2.0), step("add", by=1.0)), 1.0),
        ({"recipe": recipe(step("formula", expression="exp(3 * position.z)"))}, (np.exp(1.5) - np.exp(-1.5)) / 3),
        ({"recipe": recipe(step("formula", expression="8 * position.z * position.z"))}, 8 / 12),
    ],
    ids=["linear", "exponential", "square"],
)
def test_density_may_vary_along_the_way(density: dict[str, Any], depth: float) -> None:
    # Beer–Lambert with ∫ density ds in closed form.
    got = seen(volume_shot(volume_look(density=density, **ABSORBS), objects=[box()]), samples=256)
    assert got == pytest.approx(np.exp(-depth * COLOURS), rel=4e-3)


def test_volumes_that_overlap_add() -> None:
    looks = [
        volume_look("red", density=1.0, **NO_SCATTER, absorption_color=[0, 1, 1]),
        volume_look("blue", density=0.5, **NO_SCATTER, absorption_color=[1, 1, 0]),
    ]
    objects = [box("a", "red"), box("b", "blue", position=[0, -0.5, 0.5]), ball("c", "red")]
    got = seen(volume_shot(*looks, objects=objects))
    assert got == pytest.approx(np.exp(-np.array([0.5, 2.5, 2.0])), rel=2e-3)


def test_the_camera_may_stand_in_several() -> None:
    looks = volume_look(density=0.3, **ABSORBS)
    camera = {"position": [0, 0, 0.5], "target": [0, 0, -5], "focal_length": 4000.0}
    objects = [box(size=4.0), ball(radius=1.0), box("far", position=[0, -0.5, -10])]
    got = seen(volume_shot(looks, objects=objects, camera=camera))
    assert got == pytest.approx(np.exp(-0.3 * (2.5 + 1.5 + 1) * COLOURS), rel=2e-3)


@pytest.mark.parametrize("scale", [1e-3, 1.0, 1e3])
def test_size_does_not_matter(scale: float) -> None:
    camera = {"position": [0, 0, 5 * scale], "target": [0, 0, 0], "focal_length": 4000.0}
    fill = along("z", step("divide", by=scale), step("add", by=1.0), step("divide", by=scale))
    got = seen(
        volume_shot(
            volume_look(density=fill, **ABSORBS),
            objects=[box(scale=scale, position=[0, -0.5 * scale, 0])],
            camera=camera,
        ),
        samples=128,
    )
    assert got == pytest.approx(np.exp(-COLOURS), rel=8e-3)


def test_a_slab_shines_as_it_absorbs() -> None:
    # ∫ j exp(−σ s) ds = j / σ (1 − exp(−σ d)), and j d where nothing is absorbed.
    fill = volume_look(density=2.0, volume_emission=3.0, volume_emission_color=[1, 0.5, 0.25], **ABSORBS)
    want = [3 / 2 * (1 - np.exp(-2)), 1.5 * (1 - np.exp(-1)), 0.75]
    assert seen(volume_shot(fill, objects=[box()], light=0.0), samples=1024) == pytest.approx(want, rel=8e-3)


def test_stops_double_the_light() -> None:
    fill = volume_look(density=0.0, volume_emission=3.0, volume_emission_exposure=2.0)
    assert seen(volume_shot(fill, objects=[ball()], light=0.0)) == pytest.approx([12] * 3, rel=1e-3)


def test_light_grows_along_a_slab() -> None:
    fill = volume_look(density=0.0, volume_emission=along("z", step("add", by=0.5), step("multiply", by=4.0)))
    assert seen(volume_shot(fill, objects=[box()], light=0.0), samples=256) == pytest.approx([2] * 3, rel=8e-3)


@pytest.mark.parametrize(
    ("density", "g", "samples"), [(0.5, 0.0, 64), (4.0, 0.8, 128), (4.0, -0.6, 128), (20.0, 0.0, 512), (60.0, 0.9, 256)]
)
def test_a_white_volume_in_even_light_is_not_seen(density: float, g: float, samples: int) -> None:
    # The white furnace: whatever is scattered, as much is scattered in (e.g. Kajiya's or any energy balance).
    fill = volume_look(density=density, scattering_color=[1, 1, 1], scattering_anisotropy=g)
    assert seen(volume_shot(fill, objects=[ball()]), samples) == pytest.approx([1] * 3, abs=0.02)


def test_a_white_volume_that_varies_is_not_seen_either() -> None:
    density = {"recipe": recipe(step("noise", size=0.2, low=0.0, high=20.0, space="world"))}
    fill = volume_look(density=density, scattering_color=[1, 1, 1], scattering_anisotropy=0.4, second_share=0.3)
    made = volume_shot(fill, objects=[ball()])
    assert seen(made, 256) == pytest.approx([1] * 3, abs=0.02)
    assert violations(made) == 0


def lobe(cosine: float, g: float) -> float:
    """Henyey and Greenstein, 1941."""
    return (1 - g * g) / (4 * np.pi * (1 + g * g - 2 * g * cosine) ** 1.5)


@pytest.mark.parametrize(
    ("density", "g", "share", "second"), [(0.1, 0.0, 0, 0), (0.1, 0.8, 0, 0), (0.1, -0.6, 0, 0), (0.3, 0.5, 0.3, -0.5)]
)
def test_a_lamp_lights_a_medium_by_the_closed_integral(density: float, g: float, share: float, second: float) -> None:
    # Single scattering: ∫ σ_s p(cos θ) I / r² exp(−σ (r + s)) ds along the ray, which passes a lamp at 1 m; so white only that
    # what is scattered twice does not count (about 1 %).
    albedo = min(0.04, 0.004 / density)
    fill = volume_look(
        density=density, scattering_color=[albedo] * 3, absorption_color=[1 - albedo] * 3, scattering_anisotropy=g,
        second_share=share, second_anisotropy=second,
    )  # fmt: skip
    lamp = {"name": "lamp", "shape": "sphere", "width": 0.01, "power": 10.0, "position": [0, 1, 0], "target": [0, 0, 0]}

    def at(z: float) -> float:
        r = np.hypot(1, z)
        phase = (1 - share) * lobe(z / r, g) + share * lobe(z / r, second)
        return float(density * albedo * phase * 10 / (4 * np.pi) / r**2 * np.exp(-density * (r + 2 - z)))

    want = integrate.quad(at, -2, 2)[0]
    camera = {"position": [0, 0, 10], "target": [0, 0, 0], "focal_length": 4000.0}
    got = seen(volume_shot(fill, objects=[box(size=4.0)], light=0.0, lights=[lamp], camera=camera), 1000)
    assert got[0] == pytest.approx(want, rel=0.05)


def lit_floor(fill: dict[str, Any], *between: dict[str, Any], glass: bool = False) -> float:
    """What a small grey floor gives back of the light of a ball of 0.5 m, 2 m above it."""
    looks = [look("grey", layer("base", base_color=value([0.5] * 3), specular_weight=value(0.0)))]
    looks += [look("glass", layer("clear", transmission_weight=value(1.0), specular_roughness=value(0.0)))]
    floor = {"name": "floor", "look": "grey", "geometry": {"shape": "plane", "width": 0.4, "depth": 0.4}}
    glow = {"name": "glow", "look": "mist", "geometry": {"shape": "sphere", "radius": 0.5}, "position": [0, 1.5, 0]}
    camera = {"position": [0, 0.5, 1], "target": [0, 0, 0], "focal_length": 2000.0}
    objects = [floor, {**glow, "look": "glass", "filled_with": "mist"} if glass else glow, *between]
    return float(seen(volume_shot(fill, *looks, objects=objects, light=0.0, camera=camera), 400)[0])


def test_a_glowing_ball_lights_a_floor() -> None:
    # Of an even ball cos θ / r² adds up to its volume over the square of its distance, as gravity does (Newton's shell theorem).
    want = 0.5 / np.pi * 3 * (4 / 3 * np.pi * 0.125) / 4
    assert lit_floor(volume_look(density=0.0, volume_emission=3.0)) == pytest.approx(want, rel=0.015)


def test_a_ball_that_glows_unevenly_lights_a_floor() -> None:
    def at(r: float, c: float) -> float:
        return float(2 * np.pi * r * r * 3 * (0.5 + r * c) * (2 + r * c) / (r * r + 4 + 4 * r * c) ** 1.5)

    want = 0.5 / np.pi * integrate.dblquad(at, -1, 1, 0, 0.5)[0]
    fill = volume_look(density=0.0, volume_emission=along("y", step("multiply", by=3.0), space="object"))
    assert lit_floor(fill) == pytest.approx(want, rel=0.02)


def test_volumes_throw_shadows() -> None:
    veil = box("veil", "veil", size=0.4, position=[0, 0.6, 0], stretch=[4, 1, 4])
    looks = volume_look("veil", density=2.0, **NO_SCATTER, absorption_color=[1, 1, 1])
    open_air = lit_floor(volume_look(density=0.0, volume_emission=3.0))
    made = [volume_look(density=0.0, volume_emission=3.0), looks]
    grey = look("grey", layer("base", base_color=value([0.5] * 3), specular_weight=value(0.0)))
    floor = {"name": "floor", "look": "grey", "geometry": {"shape": "plane", "width": 0.4, "depth": 0.4}}
    glow = {"name": "glow", "look": "mist", "geometry": {"shape": "sphere", "radius": 0.5}, "position": [0, 1.5, 0]}
    camera = {"position": [0, 0.5, 1], "target": [0, 0, 0], "focal_length": 2000.0}
    got = seen(volume_shot(*made, grey, objects=[floor, glow, veil], light=0.0, camera=camera), 128)[0]
    # Straight down 0.4 m of it, aslant a little more.
    assert np.exp(-0.8) * 0.94 < got / open_air < np.exp(-0.8)


def test_light_comes_through_glass_around_a_medium() -> None:
    # Each boundary passes 1 − F, F = 0.04 head on; light that is thrown back within comes out too but for what the bent ball spreads:
    # from the ball's even light the floor gets as much as without glass, less the reflection at the outer boundary (energy balance).
    plain = lit_floor(volume_look(density=0.0, volume_emission=3.0))
    assert lit_floor(volume_look(density=0.0, volume_emission=3.0), glass=True) == pytest.approx(plain, rel=0.2)


def test_a_picture_repeats_exactly_whatever_the_threads() -> None:
    density = {"recipe": recipe(step("noise", size=0.1, low=0.0, high=12.0, space="world"))}
    fill = volume_look(density=density, volume_emission=0.5)
    made = volume_shot(fill, objects=[ball()], camera={"position": [0, 0, 2], "target": [0, 0, 0]})
    assert (seen(made, 2, 48, threads=1) == seen(made, 2, 48, threads=2)).all()


@pytest.mark.parametrize(
    ("curve", "near", "far"), [(1.0, 1.0, 9.0), (2.0, 2.0, 8.0), (0.5, 0.5, 12.0), (1.0, 1.0, 5.5)]
)
def test_fog_leaves_at_each_distance_what_it_says(curve: float, near: float, far: float) -> None:
    # Beer and Lambert: a white wall in even light is seen by exp(−∫ density) = 1 − ((r − near) / (far − near)) ^ curve.
    fill = volume_look(
        density={"recipe": recipe(step("fog", near=near, far=far, curve=curve))},
        **NO_SCATTER,
        absorption_color=[1, 1, 1],
    )
    wall = {
        "name": "wall",
        "look": "lit",
        "geometry": {"shape": "plane", "width": 9, "depth": 9},
        "rotation": [90, 0, 0],
    }
    lit = look("lit", layer("a", self_lit=value(1.0), base_color=value([1, 1, 1])))
    air = {"look": "mist", "ceiling": 20, "floor": -20, "reach": 20}
    got = seen(volume_shot(fill, lit, objects=[wall], light=0.0, atmosphere=air), 256)
    assert got[0] == pytest.approx(1 - ((5 - near) / (far - near)) ** curve, abs=0.01)


def test_a_nearer_limit_swallows_far_bodies_sooner() -> None:
    from tests.builders import run

    away = {"position": np.array([[0.0] * 3, [0.0] * 3, [-2.0, -6.0, -11.0]])}
    camera = {"position": [0, 0, 0], "target": [0, 0, -1]}
    masks = [run(step("fog", give="mask", near=1.0, far=far), data=away, camera=camera)[0] for far in (8.0, 12.0)]
    assert masks[0] == pytest.approx([1 / 7, 5 / 7, 1.0], abs=1e-5)
    assert (masks[0] >= masks[1]).all()
    assert masks[0][1] > masks[1][1]


def test_the_air_does_not_fill_glass() -> None:
    air = {"look": "mist", "ceiling": 3, "floor": -3, "reach": 3}
    glass = look(
        "clear", layer("a", transmission_weight=value(1.0), specular_ior=value(1.0), specular_weight=value(0.0))
    )
    block = {**box("block", "clear"), "geometry": {"shape": "box", "width": 2, "height": 2, "depth": 2, "rounding": 0}}
    fill = volume_look(density=0.5, **ABSORBS)
    without = seen(volume_shot(fill, objects=[], atmosphere=air))
    within = seen(volume_shot(fill, glass, objects=[{**block, "position": [0, -1, 0]}], atmosphere=air))
    assert without == pytest.approx(np.exp(-0.5 * 6 * COLOURS), rel=2e-3)
    assert within == pytest.approx(np.exp(-0.5 * 4 * COLOURS), rel=5e-3)


def test_a_body_of_glass_may_be_filled() -> None:
    glass = look(
        "clear", layer("a", transmission_weight=value(1.0), specular_ior=value(1.0), specular_weight=value(0.0))
    )
    got = seen(volume_shot(volume_look(density=1.0, **ABSORBS), glass, objects=[box(look="clear", filled_with="mist")]))
    assert got == pytest.approx(np.exp(-COLOURS), rel=3e-3)


def test_what_stands_within_is_seen_through_what_lies_before_it() -> None:
    lit = look("lit", layer("a", self_lit=value(1.0), base_color=value([1, 1, 1])))
    wall = {
        "name": "wall",
        "look": "lit",
        "geometry": {"shape": "plane", "width": 9, "depth": 9},
        "rotation": [90, 0, 0],
        "position": [0, 0, 0.2],
    }
    got = seen(volume_shot(volume_look(density=1.0, **ABSORBS), lit, objects=[box(), wall], light=0.0))
    assert got == pytest.approx(np.exp(-0.3 * COLOURS), rel=2e-3)


def test_smoke_glows_as_a_black_body() -> None:
    # A candela was once defined so: platinum as it freezes, 2042 K, shines with 60 candela per square centimetre (9th CGPM, 1948).
    from texallon.core.shade.black_body import black_body_radiance

    light = black_body_radiance(np.array([2042.0, 300.0, 0.0], np.float32))
    assert light[:, 0] @ [0.2126, 0.7152, 0.0722] == pytest.approx(600_000, rel=0.01)
    assert (light[:, 1:] == 0).all()
    # Kirchhoff: so thick that nothing comes through, it shines as a black body does.
    fill = volume_look(density=60.0, **NO_SCATTER, absorption_color=[1, 1, 1], temperature=2042.0)
    got = seen(volume_shot(fill, objects=[box()], light=0.0), 512)
    assert got @ [0.2126, 0.7152, 0.0722] == pytest.approx(600_000, rel=0.1)


@pytest.mark.parametrize("change", [
    ({"looks": [look("plain"), {**look("s"), "points": {}}]}, "/looks/1/points"),
    ({"looks": [look("plain"), volume_look(base_color=[1, 1, 1])]}, "/looks/1/layers/0/channels/base_color"),
    ({"looks": [look("plain", layer("a", density=value(1.0)))]}, "/looks/0/layers/0/channels/density"),
    ({"atmosphere": {"look": "plain"}}, "/atmosphere/look"),
    ({"atmosphere": {"look": "nothing"}}, "/atmosphere/look"),
    ({"looks": [look("plain"), volume_look()], "atmosphere": {"look": "mist", "ceiling": -5}}, "/atmosphere/ceiling"),
    ({"objects": [{**box(look="plain"), "filled_with": "plain"}]}, "/objects/0/filled_with"),
    ({"looks": [look("plain"), volume_look()], "objects": [{**box(), "filled_with": "mist"}]}, "/objects/0/filled_with"),
    ({"looks": [look("plain"), volume_look(), {**look("c"), "layers": [{"name": "x", "look": {"look": "mist"}}]}]}, "/looks/2/layers/0/look/look"),
])  # fmt: skip
def test_what_is_of_the_wrong_domain_is_said_with_its_place(change: tuple[dict[str, Any], str]) -> None:
    from tests.builders import document
    from texallon.core.document import DocumentError, read_shot

    members, place = change
    with pytest.raises(DocumentError) as error:
        read_shot(document(**members))
    assert place in [each.pointer for each in error.value.problems]


@pytest.mark.parametrize("depth", [6.0, 9.0])
def test_a_thick_slab_lets_through_what_the_diffusion_limit_says(depth: float) -> None:
    # Isotropic, conservative scattering in even light from above, seen straight on from below; by reciprocity that is what a beam leaves of
    # itself: 4/3 K(1) / (τ + 2 q), K(1) = √3/4 H(1), Hopf's q = 0.7104 and H(1) = 2.9078 (S. Chandrasekhar, Radiative Transfer, 1960; H. C. van
    # de Hulst, Multiple Light Scattering, 1980; numbers from memory).
    want = 4 / 3 * np.sqrt(3) / 4 * 2.9078 / (depth + 2 * 0.7104)
    fill = volume_look(density=depth, scattering_color=[1, 1, 1])
    slab = {
        "name": "slab",
        "look": "mist",
        "geometry": {"shape": "box", "width": 80, "height": 1, "depth": 80, "rounding": 0},
    }
    black = look("black", layer("a", base_color=value([0, 0, 0]), specular_weight=value(0.0)))
    floor = {
        "name": "floor",
        "look": "black",
        "geometry": {"shape": "plane", "width": 80, "depth": 80},
        "position": [0, -0.3, 0],
    }
    camera = {"position": [0, -0.2, 0], "target": [0, 1, 0.001], "focal_length": 4000.0}
    got = seen(volume_shot(fill, black, objects=[slab, floor], camera=camera), 800)
    assert got[0] == pytest.approx(want, rel=0.04)


@kernel
def mean_cosine(g: float, second: float, share: float, n: int, out: np.ndarray) -> None:
    for i in range(n):
        u, v, _, _ = uniform4(i, 0, 0, 7)
        x, y, z = sample_two_lobes(0.6, 0.0, 0.8, g, second, share, u, v)
        out[0] += (0.6 * x + 0.8 * z) / n
        out[1] = max(out[1], abs(x * x + y * y + z * z - 1.0))


@pytest.mark.parametrize(
    ("g", "second", "share"), [(0.0, 0.0, 0.0), (0.7, 0.0, 0.0), (-0.9, 0.0, 0.0), (0.8, -0.4, 0.3), (0.95, 0.2, 0.9)]
)
def test_the_mean_cosine_of_a_phase_function_is_its_parameter(g: float, second: float, share: float) -> None:
    # Henyey and Greenstein, 1941: the mean cosine is g; of a mixture the mean of both.
    out = np.zeros(2)
    mean_cosine(g, second, share, 200_000, out)
    assert out[0] == pytest.approx((1 - share) * g + share * second, abs=0.005)
    assert out[1] < 1e-6
    cosine = np.linspace(-1, 1, 20001)
    whole = 2 * np.pi * np.trapezoid([(1 - share) * lobe(c, g) + share * lobe(c, second) for c in cosine], cosine)
    assert whole == pytest.approx(1, abs=1e-3)
