"""A Catmull–Clark level: where the points of a divided net lie, borders and sharp sides kept."""

from dataclasses import dataclass

import numpy as np

from texallon.core.geometry.net import Flags, Floats, Net, Numbers


@dataclass(frozen=True)
class Cage:
    """Points `places (p, 3)` with the net of their faces; `sharp (e,)` tells which sides stay sharp."""

    net: Net
    places: Floats
    sharp: Flags

    @staticmethod
    def of(faces: Numbers, places: Floats, crease: float) -> "Cage":
        """A cage whose sides are sharp where they bend by more than an angle, end, or belong to more than two faces.

        Parameters
        ----------
        faces : Integers
            `(f, 4)`; a triangle repeats its last corner.
        places : Floats
            `(p, 3)`.
        crease : float
            Degrees; at 180 none are sharp for being bent.
        """
        net = Net.of(faces, len(places))
        side, face = net.side[_real_sides(net)], np.nonzero(_real_sides(net))[0]
        sharp = np.bincount(side, minlength=len(net.ends)) != 2
        if crease < 180:
            a, b, c, d = (places[faces[:, k]] for k in range(4))
            normal = np.where(net.triangle[:, None], np.cross(b - a, c - a), np.cross(c - a, d - b))
            normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
            order = np.argsort(side, kind="stable")
            follows = side[order][1:] == side[order][:-1]
            cosine = (normal[face[order[:-1][follows]]] * normal[face[order[1:][follows]]]).sum(axis=1)
            sharp[side[order[:-1][follows]][cosine < np.cos(np.radians(crease))]] = True
        return Cage(net, places, sharp)

    def divided(self) -> "Cage":
        """The next level.

        References
        ----------
        E. Catmull, J. Clark, "Recursively generated B-spline surfaces on arbitrary topological meshes", Computer-Aided Design 10 (1978).
        Sharp sides: T. DeRose, M. Kass, T. Truong, "Subdivision Surfaces in Character Animation", SIGGRAPH 1998, without half sharpness.
        """
        net, places, ends = self.net, self.places, self.net.ends
        centres, middles = net.centres(places), net.middles(places)
        real = _real_sides(net)
        about = sums(net.side[real], centres[np.nonzero(real)[0]], len(ends))
        of_sides = np.where(self.sharp[:, None], middles, (2 * middles + about) / 4)
        made = np.concatenate([self._moved(centres, middles), of_sides, centres])
        new = net.divided()
        sharp = np.concatenate([np.repeat(self.sharp, 2), np.zeros(len(new.ends) - 2 * len(ends), bool)])
        return Cage(new, made, sharp)

    def _moved(self, centres: Floats, middles: Floats) -> Floats:
        """Where the points themselves go."""
        net, places, count = self.net, self.places, self.net.count
        at, of = net.faces[net.corner], np.nonzero(net.corner)[0]
        faces_about = np.bincount(at, minlength=count)
        n = np.maximum(faces_about, 1)[:, None]
        ends = net.ends.ravel()
        sides_about = np.maximum(np.bincount(ends, minlength=count), 1)[:, None]
        mean_centre = sums(at, centres[of], count) / n
        mean_middle = sums(ends, np.repeat(middles, 2, axis=0), count) / sides_about
        moved: Floats = (mean_centre + 2 * mean_middle + (n - 3) * places) / n
        ridge = net.ends[self.sharp]
        along = np.bincount(ridge.ravel(), minlength=count)
        on_ridge = along == 2
        others = sums(ridge.ravel(), places[ridge[:, ::-1].ravel()], count)
        moved[on_ridge] = (0.75 * places + others / 8)[on_ridge]
        # Where more than two sharp sides meet it is a corner, as is the corner of a sheet; with a single one the surface is smooth there.
        keeps = (along > 2) | (faces_about <= 1)
        moved[keeps] = places[keeps]
        return moved


def sums(at: Numbers, values: Floats, count: int) -> Floats:
    """The sums `(count, w)` of values by their numbers.

    Parameters
    ----------
    at : Integers
        `(n,)` below `count`.
    values : Floats
        `(n, w)`.
    count : int
        Of numbers.
    """
    return np.stack([np.bincount(at, values[:, k], minlength=count) for k in range(values.shape[1])], axis=1)


def _real_sides(net: Net) -> Flags:
    """Which sides of faces are real, `(f, 4)`: not that of a repeated corner to itself."""
    real = np.ones(net.faces.shape, bool)
    real[net.triangle, 2] = False
    return real
