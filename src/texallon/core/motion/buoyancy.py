"""Floating bodies: heave and two tilts, each a damped oscillator that is drawn to the water under the body's outline."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.derived import checkpoint
from texallon.core.document.floats import Floats
from texallon.core.kernel import Array
from texallon.core.motion.oscillator import driven_steps
from texallon.core.motion.touches import Block, Span, ValuesAt
from texallon.core.ops.wave_spectrum import GRAVITY

Doubles = npt.NDArray[np.float64]

ACROSS = 5
"""Points along each side of the outline at which the water is looked at."""

STIFFEST = 2 * np.pi * 40.0
"""1/s: what would swing faster follows the water at once."""


class Hull(NamedTuple):
    """What of a body matters to the water: `length`, `height` and `breadth` in metres, along its x, y and z axes."""

    length: float
    height: float
    breadth: float


def outline(hull: Hull) -> Doubles:
    """Places `(25, 2)` along x and z of the body, metres, over its outline.

    Parameters
    ----------
    hull : Hull
        Of the body.
    """
    share = (np.arange(ACROSS) + 0.5) / ACROSS - 0.5
    x, z = np.meshgrid(share * hull.length, share * hull.breadth)
    return np.stack([x.ravel(), z.ravel()], axis=1)


def plane_under(places: Doubles, heights: Doubles) -> Doubles:
    """The mean height of the water `(3,)`, and its slopes along x and z, as the plane that fits best.

    Parameters
    ----------
    places : Doubles
        `(n, 2)` about their middle, metres.
    heights : Doubles
        `(n,)` metres.
    """
    made = np.stack([np.ones(len(places)), places[:, 0], places[:, 1]], axis=1)
    found: Doubles = np.linalg.lstsq(made, np.nan_to_num(heights), rcond=None)[0]
    return found


def natural_frequencies(hull: Hull, draught: float) -> Doubles:
    """Angular frequencies `(3,)` of heave, and of tilting about z and about x, 1/s.

    A box is taken in place of the body: it rises and sinks with √(g/draught), and is turned upright by its metacentric height.

    Parameters
    ----------
    hull : Hull
        Of the body.
    draught : float
        Metres.

    References
    ----------
    J. Journée, W. Massie, Offshore Hydromechanics (2001), 2.3 (metacentric height of a box) and 6.3 (heave without added mass).
    """
    heave = np.sqrt(GRAVITY / draught)

    def tilting(wide: float) -> float:
        radius = (wide**2 + hull.height**2) / 12
        # Centre of buoyancy half a draught below the surface, weight low in the hull; a body that would turn over is held upright gently.
        metacentric = max(wide**2 / (12 * draught), 0.05 * wide)
        return float(np.sqrt(GRAVITY * metacentric / max(radius, 1e-9)))

    found: Doubles = np.minimum(np.array([heave, tilting(hull.length), tilting(hull.breadth)]), STIFFEST)
    return found


def gather_floating(before: Block | None, span: Span, floats: Floats, hull: Hull, planes: ValuesAt) -> Block:
    """How a body lies in some frames, after how it lay before.

    Parameters
    ----------
    before : Block, optional
        Of the frames before; none at the first, at which it lies as the water does.
    span : Span
        The frames.
    floats : Floats
        How it floats.
    hull : Hull
        Of the body.
    planes : callable
        The plane `(3,)` under it at a frame.

    Returns
    -------
    Block
        `height`, `velocity` `(frames, 3)`: heave in metres, slopes along x and z; `last (3, 3)`.
    """
    check, omega = checkpoint(), natural_frequencies(hull, floats.draught)
    steps = driven_steps(omega**2, 2 * floats.damping * omega, omega**2, 1 / span.rate)
    heights: list[Array] = []
    velocities: list[Array] = []
    state = None if before is None else np.asarray(before.arrays["last"], np.float64)
    for frame in range(span.start, span.end + 1):
        check()
        now = planes(frame)
        if state is None:
            state = np.stack([now, np.zeros(3), now])
        else:
            inputs = np.stack([state[0], state[1], state[2], now - state[2]])
            moved = np.einsum("aij,ja->ia", steps, inputs)
            state = np.stack([moved[0], moved[1], now])
        heights.append(state[0].astype(np.float32))
        velocities.append(state[1].astype(np.float32))
    assert state is not None
    return Block({"height": np.array(heights), "velocity": np.array(velocities), "last": state})
