"""Rays from the camera through jittered places in pixels, and through a lens of some opening.

A thin lens: every ray of a pixel meets the others in the plane that is in focus (R. L. Cook, T. Porter, L. Carpenter,
"Distributed Ray Tracing", SIGGRAPH 1984). A point at depth d, with the focus at s, spreads over the lens's opening A times |d − s| / s
there, as seen from the eye.
"""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from texallon.core.document.camera import Camera
from texallon.core.kernel import Array, Float, Int, Integers, kernel
from texallon.core.random_numbers import uniform4
from texallon.core.signal.placement import camera_axes

Doubles = npt.NDArray[np.float64]

LENS = 0xFFFF0000
"""The random dimension of pixel jitter, apart from those of scattering."""


@dataclass(frozen=True)
class View:
    """A camera ready to make rays for a picture of `width` × `height` pixels.

    `basis` is `(4, 3)`: the eye, then right, up and forward; right and up are scaled so that ±1 are the edges.
    """

    basis: Array
    width: int
    height: int
    pixel_angle: float
    """Radians between neighbouring pixels at the centre."""
    lens: float = 0.0
    """Radius of the lens's opening, metres."""
    focus: float = 1.0
    """Depth of what is sharp, metres."""

    @property
    def sharp(self) -> "View":
        """The same through a pinhole: for masks and measurements."""
        return replace(self, lens=0.0)

    def project(self, point: Array) -> tuple[float, float, float]:
        """Where a world point `(3,)` lies in the picture: x and y as 0…1 from the top left, and depth in metres.

        Parameters
        ----------
        point : Array
            `(3,)` in the world, metres.
        """
        places, depth = self.places((np.asarray(point, np.float64) - self.basis[0])[None])
        return float(places[0, 0]), float(places[0, 1]), float(depth[0])

    def places(self, away: Doubles) -> tuple[Doubles, Doubles]:
        """Where points lie in the picture, `(n, 2)` as 0…1 from the top left, NaN for those behind the eye; and their depths `(n,)`.

        Parameters
        ----------
        away : Array
            `(n, 3)` from the eye in the world, metres; directions, where only the place is wanted.
        """
        _, right, up, forward = (row.astype(np.float64) for row in self.basis)
        depth = away @ forward
        ahead = np.where(depth > 0, depth, np.nan)
        x, y = (away @ right) / (right @ right) / ahead, (away @ up) / (up @ up) / ahead
        return np.stack([0.5 + 0.5 * x, 0.5 - 0.5 * y], axis=-1), depth


def make_view(camera: Camera, width: int, height: int) -> View:
    """The film's width fills the picture's width, whatever its shape.

    Parameters
    ----------
    camera : Camera
        Where it stands and what it looks at.
    width : int
        Pixels across.
    height : int
        Pixels down.
    """
    eye = np.array(camera.position, np.float64)
    right, true_up, forward = camera_axes(camera)
    half = 0.5 * camera.film_width / camera.focal_length
    basis = np.stack([eye, right * half, true_up * half * height / width, forward]).astype(np.float32)
    opening = camera.focal_length / 1000 / camera.f_stop if camera.f_stop > 0 else 0.0
    return View(basis, width, height, 2 * half / width, opening / 2, camera.focus_distance)


def camera_rays(view: View, pixels: Integers, sample: int, seed: int) -> tuple[Array, Array]:
    """Origins and unit directions `(3, n)` of rays through `pixels (n,)`, row by row from the top left.

    Parameters
    ----------
    view : View
        The camera's rays.
    pixels : Integers
        `(n,)` numbers, row by row from the top left.
    sample : int
        Number of the sample.
    seed : int
        Of the random numbers.
    """
    origin = np.empty((3, len(pixels)), np.float32)
    direction = np.empty((3, len(pixels)), np.float32)
    fill_camera_rays(
        view.basis, view.width, view.height, view.lens, view.focus, pixels, sample, seed, origin, direction
    )
    return origin, direction


@kernel
def fill_camera_rays(
    basis: Array,
    width: Int,
    height: Int,
    lens: Float,
    focus: Float,
    pixels: Integers,
    sample: Int,
    seed: Int,
    origin: Array,
    direction: Array,
) -> None:
    """See `camera_rays`.

    Parameters
    ----------
    basis : Array
        `(4, 3)` eye, right, up and forward.
    width : int
        Pixels across.
    height : int
        Pixels down.
    lens : float
        Radius of the opening, metres.
    focus : float
        Depth of what is sharp, metres.
    pixels : Integers
        `(n,)` numbers, row by row from the top left.
    sample : int
        Number of the sample.
    seed : int
        Of the random numbers.
    origin, direction : Array
        `(3, n)`, filled.
    """
    for i in range(pixels.shape[0]):
        pixel = pixels[i]
        jx, jy, lu, lv = uniform4(pixel, sample, LENS, seed)
        x = (pixel % width + jx) / width * 2.0 - 1.0
        y = 1.0 - (pixel // width + jy) / height * 2.0
        dx = basis[3, 0] + x * basis[1, 0] + y * basis[2, 0]
        dy = basis[3, 1] + x * basis[1, 1] + y * basis[2, 1]
        dz = basis[3, 2] + x * basis[1, 2] + y * basis[2, 2]
        ex, ey, ez = basis[0, 0], basis[0, 1], basis[0, 2]
        if lens > 0.0:
            # A place on the lens, even over its disc; the ray goes on to where the plain one meets the plane in focus.
            ring, turn = lens * np.sqrt(lu), 2.0 * np.pi * lv
            wide = np.sqrt(basis[1, 0] ** 2 + basis[1, 1] ** 2 + basis[1, 2] ** 2)
            tall = np.sqrt(basis[2, 0] ** 2 + basis[2, 1] ** 2 + basis[2, 2] ** 2)
            a, b = ring * np.cos(turn) / wide, ring * np.sin(turn) / tall
            lx = a * basis[1, 0] + b * basis[2, 0]
            ly = a * basis[1, 1] + b * basis[2, 1]
            lz = a * basis[1, 2] + b * basis[2, 2]
            dx, dy, dz = dx * focus - lx, dy * focus - ly, dz * focus - lz
            ex, ey, ez = ex + lx, ey + ly, ez + lz
        length = np.sqrt(dx * dx + dy * dy + dz * dz)
        direction[0, i], direction[1, i], direction[2, i] = dx / length, dy / length, dz / length
        origin[0, i], origin[1, i], origin[2, i] = ex, ey, ez
