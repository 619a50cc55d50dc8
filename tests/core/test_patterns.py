"""Patterns: what an artist asks of them is what they do, and no setting disturbs another."""

import numpy as np
import pytest

from tests.builders import run, step

RNG = np.random.default_rng(23)


def on_cable(count: int, radius: float = 0.03) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points on a cable about the y axis: their positions `(3, n)`, angle about it in turns, and place along it."""
    angle, along = RNG.uniform(-0.5, 0.5, count), RNG.uniform(-1, 1, count)
    # Our right-handed turn about y: from z towards x.
    position = np.stack([radius * np.sin(2 * np.pi * angle), along, radius * np.cos(2 * np.pi * angle)])
    return position.astype(np.float32), angle, along


@pytest.mark.parametrize("count", [1, 3, 7])
@pytest.mark.parametrize("turns", [-4.0, 0.0, 12.5])
def test_strands_are_numbered_round_the_cable_and_wind_as_asked(count: int, turns: float) -> None:
    position, angle, along = on_cable(4000)
    number = run(step("strands", count=count, turns=turns, result="strand number"), data={"position": position})[0]
    exact = (angle - turns * along) * count
    expected = np.floor(exact).astype(int) % count
    clear = np.abs(exact - np.rint(exact)) > 1e-3  # not on the border of two strands
    assert np.array_equal(number[clear], expected[clear])


def test_more_strands_do_not_change_the_twist_nor_the_other_way_round() -> None:
    # Faked by a tilted, tiled gradient the two are coupled (common practice, no published source).
    line = np.linspace(0, 1, 20_001)
    position = np.stack([np.zeros_like(line), line, np.full_like(line, 0.03)])

    def passes(count: int, turns: float) -> int:
        number = run(step("strands", count=count, turns=turns, result="strand number"), data={"position": position})[0]
        return int((np.diff(number) != 0).sum())

    for count in (2, 5, 9):
        assert passes(count, 6.0) / count == pytest.approx(6, abs=0.51), "six turns a metre, however many strands"
    ring, _, _ = on_cable(20_000)
    for turns in (0.0, 3.0, 11.0):
        numbers = run(step("strands", count=5, turns=turns, result="strand number"), data={"position": ring})[0]
        assert set(numbers) == {0, 1, 2, 3, 4}, "five strands, however twisted"


def test_a_strands_height_is_one_on_top_and_a_circle_across() -> None:
    # Straight strands as thick as they lie apart: across each, √(1 − x²).
    radius, count = 0.02, 4
    pitch = 2 * np.pi * radius / count
    angle = np.linspace(-0.124, 0.124, 400) + 0.125
    position = np.stack([radius * np.sin(2 * np.pi * angle), np.zeros(400), radius * np.cos(2 * np.pi * angle)])
    height = run(step("strands", count=count, turns=0, thickness=pitch), data={"position": position})[0]
    across = (angle * count - 0.5) * 2
    assert np.allclose(height, np.sqrt(1 - across**2), atol=0.01)
    flat = run(step("strands", count=count, turns=0, thickness=pitch, roundness=0.2), data={"position": position})[0]
    assert (flat > height - 1e-4).all()
    assert flat.mean() > height.mean() + 0.1, "less round is flatter on top"


def test_on_a_uv_map_a_cable_is_the_same_as_in_space() -> None:
    position, angle, along = on_cable(3000)
    space = run(step("strands", count=3, turns=5, thickness=0.04, axis="y"), data={"position": position})[0]
    uv = np.stack([angle, along])
    mapped = run(step("strands", count=3, turns=5, thickness=0.04, space="uv", radius=0.03), data={"uv": uv})[0]
    assert np.allclose(space, mapped, atol=2e-3)


def test_every_strand_has_a_value_of_its_own_that_no_other_setting_moves() -> None:
    position, _, _ = on_cable(6000)
    plain = {"count": 6, "turns": 4.0}
    own = run(step("strands", result="strand", **plain), data={"position": position})[0]
    number = run(step("strands", result="strand number", **plain), data={"position": position})[0]
    values = {int(n): set(own[number == n]) for n in range(6)}
    assert all(len(each) == 1 for each in values.values())
    assert len(set.union(*values.values())) == 6
    thin = run(step("strands", result="strand", thickness=0.001, roundness=0.3, **plain), data={"position": position})[
        0
    ]
    assert np.array_equal(own, thin)


def bricks(position: np.ndarray, **params: object) -> np.ndarray:
    return run(step("bricks", **params), data={"position": position})[0]


def test_bricks_fill_what_the_joints_leave() -> None:
    p = RNG.uniform(-5, 5, (3, 60_000)).astype(np.float32)
    face = bricks(p, width=0.25, height=0.1, joint=0.02, edge=0.0)
    assert face.mean() == pytest.approx((0.23 * 0.08) / (0.25 * 0.1), abs=0.01)
    assert set(np.unique(face)) == {0.0, 1.0}


def test_each_row_of_bricks_is_moved_along() -> None:
    def middles(row: int, shift: float) -> np.ndarray:
        x = np.linspace(0, 1, 4001)
        y = np.full_like(x, (row + 0.5) * 0.1)
        return bricks(np.stack([x, y, y * 0]), width=0.25, height=0.1, joint=0.02, shift=shift, edge=0.0)

    assert np.array_equal(middles(0, 0.0), middles(1, 0.0)), "tiles stand above each other"
    moved = middles(1, 0.5)
    same = np.roll(middles(0, 0.5), 500)[600:-600] == moved[600:-600]
    assert same.mean() > 0.995, "half a brick is 0.125 m; only on an edge may rounding decide"


def test_every_brick_has_one_random_value() -> None:
    p = RNG.uniform(-3, 3, (3, 40_000)).astype(np.float32)
    own = bricks(p, width=0.5, height=0.25, joint=0.0, shift=0.0, result="brick", edge=0.0)
    column, row = np.floor(p[0] / 0.5).astype(int), np.floor(p[1] / 0.25).astype(int)
    per = {}
    for key, value in zip(zip(column, row, strict=True), own, strict=True):
        per.setdefault(key, set()).add(float(value))
    assert all(len(values) == 1 for values in per.values())
    assert len({next(iter(values)) for values in per.values()}) == len(per)


def spots(position: np.ndarray, **params: object) -> np.ndarray:
    return run(step("spots", size=1.0, **params), data={"position": position})[0]


def test_density_says_how_many_spots_there_are() -> None:
    p = RNG.uniform(-40, 40, (3, 80_000)).astype(np.float32)
    plain = {"variation": 0.0, "irregular": 0.0, "soft": 0.0}
    covered = [spots(p, density=d, **plain).mean() for d in (0.0, 0.1, 0.2)]
    assert covered[0] == 0
    # One disc of radius ½ per square metre and chance; few of them overlap.
    assert covered[1] == pytest.approx(0.1 * np.pi / 4, rel=0.1)
    assert covered[2] > covered[1] * 1.7


def test_round_spots_are_circles_and_irregular_ones_are_not() -> None:
    def roundness(irregular: float) -> float:
        """4π area / outline² of the first whole spot: 1 for a circle."""
        grid = np.linspace(-3, 3, 900)
        x, z = np.meshgrid(grid, grid)
        p = np.stack([x.ravel(), np.zeros(x.size), z.ravel()])
        mask = spots(p, density=0.06, variation=0.0, irregular=irregular, soft=0.0, seed=4).reshape(900, 900) > 0.5
        from scipy import ndimage

        labels, count = ndimage.label(mask)
        found = []
        for number in range(1, count + 1):
            one = labels == number
            if one[0].any() or one[-1].any() or one[:, 0].any() or one[:, -1].any() or one.sum() < 2000:
                continue
            # Crofton: the outline's length from crossings along four directions.
            crossings = [np.abs(np.diff(one.astype(int), axis=a)).sum() for a in (0, 1)]
            diagonals = [np.abs(each[1:, 1:].astype(int) - each[:-1, :-1]).sum() for each in (one, one[:, ::-1])]
            outline = np.pi / 4 * (sum(crossings) / 2 + sum(diagonals) / 2 / np.sqrt(2))
            found.append(4 * np.pi * one.sum() / outline**2)
        return float(np.mean(found))

    assert roundness(0.0) > 0.93
    assert roundness(0.9) < 0.85


def test_flat_spots_go_right_through_and_balls_do_not() -> None:
    p = RNG.uniform(-4, 4, (3, 20_000)).astype(np.float32)
    low, high = p.copy(), p.copy()
    low[1], high[1] = 0, 7.3
    assert np.array_equal(spots(low), spots(high))
    assert not np.array_equal(spots(low, flat=False), spots(high, flat=False))


@pytest.mark.parametrize("result", ["coverage", "depth", "spot"])
def test_spots_stay_within_one(result: str) -> None:
    values = spots(RNG.uniform(-30, 30, (3, 40_000)).astype(np.float32), result=result, density=0.8)
    assert values.min() == 0
    assert 0.5 < values.max() <= 1


def test_rings_stand_at_their_spacing() -> None:
    p = RNG.uniform(-1, 1, (3, 4000)).astype(np.float32)
    away = np.hypot(p[0], p[2])
    wave = run(step("rings", spacing=0.2), data={"position": p})[0]
    assert np.allclose(wave, 0.5 + 0.5 * np.cos(2 * np.pi * away / 0.2), atol=1e-3)
    shells = run(step("rings", spacing=0.2, shape="point", profile="ridge"), data={"position": p})[0]
    part = np.linalg.norm(p, axis=0) / 0.2 % 1
    assert np.allclose(shells, np.abs(1 - 2 * part), atol=1e-3)


def test_rings_run_outwards_with_time() -> None:
    p = RNG.uniform(-1, 1, (3, 500)).astype(np.float32)
    later = run(step("rings", spacing=0.2, speed=0.5), data={"position": p}, frame=25)  # one second in, at 24 a second
    moved = run(step("rings", spacing=0.2, offset=0.5), data={"position": p})
    assert np.allclose(later, moved, atol=1e-4)


# Geometry --------------------------------------------------------------------------------------------------------

CAMERA = {"camera": {"position": [0, 0, 10], "target": [0, 0, 0]}}


def test_depth_and_distance_are_their_closed_forms() -> None:
    p = RNG.uniform(-3, 3, (3, 2000)).astype(np.float32)
    data = {"position": p}
    along = run(step("depth", measure="depth", metres=True), data=data, **CAMERA)[0]
    assert np.allclose(along, 10 - p[2], atol=1e-5)
    straight = run(step("depth", measure="distance", metres=True), data=data, **CAMERA)[0]
    assert np.allclose(straight, np.linalg.norm(p - np.float32([[0], [0], [10]]), axis=0), atol=1e-4)
    share = run(step("depth", measure="depth", near=8, far=12, falloff=2.0), data=data, **CAMERA)[0]
    assert np.allclose(share, np.clip((10 - p[2] - 8) / 4, 0, 1) ** 2, atol=1e-4)
    turned = run(step("depth", measure="depth", near=12, far=8), data=data, **CAMERA)[0]
    assert np.allclose(turned, np.clip((12 - (10 - p[2])) / 4, 0, 1), atol=1e-4)


def test_random_values_stay_with_their_names() -> None:
    ids = np.float32([[3, 3, 9_000_001, 16_777_215]])
    own = run(step("random", per="object"), data={"object_id": ids})[0]
    assert own[0] == own[1]
    assert len(set(own)) == 3
    assert ((own >= 0) & (own < 1)).all()
    many = run(step("random", fields="colour", seed=5), data={"object_id": np.arange(30_000)[None]})
    assert many.mean(axis=1) == pytest.approx([0.5] * 3, abs=0.01)
    assert np.abs(np.corrcoef(many) - np.eye(3)).max() < 0.03


def test_uv_and_position_are_what_the_point_has() -> None:
    uv = RNG.uniform(0, 1, (2, 50)).astype(np.float32)
    assert np.array_equal(run(step("uv", read="v"), data={"uv": uv})[0], uv[1])
    both = run(step("uv", read="both"), data={"uv": uv})
    assert np.array_equal(both[:2], uv)
    assert (both[2] == 0).all()
    p = RNG.uniform(-1, 1, (3, 50)).astype(np.float32)
    from_eye = run(step("position", space="camera"), data={"position": p}, **CAMERA)
    assert np.allclose(from_eye, p - np.float32([[0], [0], [10]]), atol=1e-5), "x right, y up, looking along −z"
