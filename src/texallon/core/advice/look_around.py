"""What advice asks of the scene itself: how many shells the camera looks through, and which lamps are shut in."""

from dataclasses import dataclass

import numpy as np

from texallon.core.columns import take_columns
from texallon.core.document.carried_looks import CarriedLooks, carried_looks, touched_channels
from texallon.core.document.light import AREAS
from texallon.core.document.look import Look
from texallon.core.document.shot import Shot
from texallon.core.geometry.rays import OPAQUE
from texallon.core.kernel import Array
from texallon.core.render.camera.view import View, camera_rays
from texallon.core.render.scene.scene import SEEN, Scene
from texallon.core.render.scene.surface import beyond, surface_at
from texallon.core.render.scene.traits import lets_light_through

AROUND = 48
"""Directions in which a lamp is looked out from."""

FARTHEST = 64
"""Shells after which counting ends."""

MOST_RAYS = 2000


@dataclass(frozen=True)
class Around:
    """`through` and `cut_out`: boundaries that nearly all the camera's rays pass at most, before something opaque, by kind.

    `shut_in` tells for each lamp that no light leaves the object around it which object that is.
    """

    through: int
    cut_out: int
    shut_in: dict[str, str]


def look_around(shot: Shot, scene: Scene, view: View) -> Around:
    """Look along the camera's rays, and out of each lamp.

    Parameters
    ----------
    shot : Shot
        A checked shot.
    scene : Scene
        What stands where.
    view : View
        The camera's rays.
    """
    through, cut_out = _shells(shot, scene, view)
    return Around(through, cut_out, _shut_in(shot, scene))


def _touching(shot: Shot, channel: str) -> np.typing.NDArray[np.bool_]:
    carried = carried_looks(shot.looks)
    return np.array([channel in touched_channels(look, carried) for look in shot.looks])


def _shells(shot: Shot, scene: Scene, view: View) -> tuple[int, int]:
    clear, cut = _touching(shot, "transmission_weight"), _touching(shot, "geometry_opacity")
    if not clear.any() and not cut.any():
        return 0, 0
    count = view.width * view.height
    pixels = np.arange(0, count, max(count // MOST_RAYS, 1), dtype=np.int32)
    origin, direction = camera_rays(view, pixels, 0, shot.seed)
    near = np.zeros(len(pixels), np.float32)
    met = np.zeros((2, len(pixels)), int)
    going = np.arange(len(pixels))
    for _ in range(FARTHEST):
        hits = scene.rays.nearest(take_columns(origin, going), take_columns(direction, going), near[going], SEEN)
        on = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        if len(on) == 0:
            break
        hits, going = hits.take(on), going[on]
        surface = surface_at(scene, hits)
        look = surface.look
        met[0, going] += clear[look]
        met[1, going] += cut[look]
        near[going] = beyond(hits, surface)
        going = going[clear[look] | cut[look]]
        if len(going) == 0:
            break
    most = np.percentile(met, 98, axis=1)
    return int(np.ceil(most[0])), int(np.ceil(most[1]))


def _shut_in(shot: Shot, scene: Scene) -> dict[str, str]:
    camera = np.array(shot.camera.position, np.float32)
    found = {}
    for light in shot.lights:
        if not light.on or light.power <= 0 or light.shape == "sun":
            continue
        place = np.array(light.position, np.float32)
        # Begin beyond the lamp's own surface.
        wide = max(light.width, light.height) if light.shape == "rectangle" else light.width
        extent = 0.75 * wide if light.shape in AREAS else 0.0
        around = _surrounding(shot, scene, place, extent)
        if around is not None and _surrounding(shot, scene, camera, 0.0) != around:
            found[light.name] = around
    return found


def _surrounding(shot: Shot, scene: Scene, place: Array, begin: float) -> str | None:
    """The opaque object whose inner side is seen from a place in all directions."""
    direction = _directions()
    origin = np.ascontiguousarray(np.broadcast_to(place[:, None], direction.shape), np.float32)
    near = np.full(direction.shape[1], begin + 1e-6 * float(np.abs(place).max()), np.float32)
    hits = scene.rays.nearest(origin, direction, near, OPAQUE)
    own = (hits.instance >= 0) & (hits.instance < scene.objects)
    inside = hits.take(np.flatnonzero(own))
    if len(inside.instance) < 0.9 * direction.shape[1]:  # the rest may have met the lamp itself
        return None
    facing = (surface_at(scene, inside).flat * direction[:, own]).sum(axis=0)
    numbers = np.unique(inside.instance)
    if len(numbers) != 1 or (facing <= 0).any():
        return None
    item = scene.of_instance(int(numbers[0])).item
    looks = {look.name: look for look in shot.looks}
    return None if _lets_light_out(looks[item.look], carried_looks(shot.looks)) else item.name


def _lets_light_out(look: Look, carried: CarriedLooks) -> bool:
    """Whether light gets out of a body of a look: clear, cut out, or a thin sheet that scatters it through, as a paper lantern does."""
    channels = touched_channels(look, carried)
    return lets_light_through(look, carried) or {"geometry_thin_walled", "subsurface_weight"} <= channels


def _directions() -> Array:
    """Directions spread evenly over the sphere (a golden spiral), `(3, AROUND)`."""
    n = np.arange(AROUND) + 0.5
    y = 1 - 2 * n / AROUND
    ring = np.sqrt(1 - y * y)
    turn = np.pi * (3 - np.sqrt(5)) * n
    return np.ascontiguousarray(np.stack([ring * np.cos(turn), y, ring * np.sin(turn)]), np.float32)
