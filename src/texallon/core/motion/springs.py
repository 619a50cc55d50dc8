"""Springs: heights that are drawn to a signal and hand what they have on to their neighbours, moved ahead exactly from frame to frame.

Over one frame the equation u″ = ω² (s − u) − 2 γ u′ + c² Δu, with the signal s between its values at both frames, has a closed solution for
every mode of the graph. As a function of the mode's stiffness it is expanded in Chebyshev polynomials, which take nothing but products with the
Laplacian: no step is too long for them, and nothing is lost or gained.
"""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.sparse import csr_array, diags_array

from texallon.core.derived import Cost, checkpoint, derived
from texallon.core.document.remembered import Springs
from texallon.core.kernel import Array
from texallon.core.motion.growth import between
from texallon.core.motion.oscillator import driven_steps
from texallon.core.motion.point_graph import Doubles, PointGraph
from texallon.core.motion.polynomial_of_matrix import NearRows, near_rows, sum_of_polynomials
from texallon.core.motion.touches import Block, Span, ValuesAt

EXACT = 1e-7
"""Of the largest coefficient: those that are smaller are left out."""

MOST_TERMS = 4096
"""Of an expansion; a step that would need more is divided."""

FREE_DAMPING = 1.0
"""Hz that damping is counted by where nothing draws the springs."""


class Propagator(NamedTuple):
    """What moves springs ahead over one step.

    Attributes
    ----------
    coefficients : Doubles
        `(terms, 2, 4)`: what the height and velocity after the step take of the height, velocity, signal and the signal's change before.
    matrix : NearRows
        The Laplacian `(p, p)`, scaled and moved so that its modes lie between −1 and 1.
    steps : int
        That make a frame.
    """

    coefficients: Doubles
    matrix: NearRows
    steps: int


def laplacian_of(graph: PointGraph) -> csr_array:
    """Minus the Laplacian of a graph, `(p, p)`.

    Parameters
    ----------
    graph : PointGraph
        With p points.
    """
    return csr_array(diags_array(1 / graph.share) @ graph.stiffness)


def stiffest(laplacian: csr_array) -> float:
    """A bound of the largest mode of a Laplacian, 1/m².

    Parameters
    ----------
    laplacian : csr_array
        `(p, p)`.

    References
    ----------
    S. Gershgorin, "Über die Abgrenzung der Eigenwerte einer Matrix", 1931.
    """
    return float(np.asarray(abs(laplacian).sum(axis=1)).max(initial=0.0))


def step_matrices(springs: Springs, stiffness: Doubles, step: float) -> Doubles:
    """What a step makes of height, velocity, signal and the signal's change, for modes of some stiffness, `(n, 2, 4)`.

    Parameters
    ----------
    springs : Springs
        Their frequency and damping.
    stiffness : Doubles
        `(n,)` 1/s² beside the frequency's.
    step : float
        Seconds.
    """
    omega = 2 * np.pi * springs.frequency
    gamma = springs.damping * (omega if omega > 0 else 2 * np.pi * FREE_DAMPING)
    drawn = omega * omega if omega > 0 else 1.0
    count = len(stiffness)
    return driven_steps(omega * omega + stiffness, np.full(count, 2 * gamma), np.full(count, drawn), step)


def propagator(springs: Springs, graph: PointGraph, rate: float) -> Propagator:
    """What moves springs ahead by a frame.

    Parameters
    ----------
    springs : Springs
        Their frequency, damping and spread.
    graph : PointGraph
        What they are handed on by.
    rate : float
        Frames per second.

    References
    ----------
    H. Tal-Ezer, R. Kosloff, "An accurate and efficient scheme for propagating the time dependent Schrödinger equation", J. Chem. Phys. 81
    (1984), for expansions of propagators in Chebyshev polynomials.
    """
    laplacian = laplacian_of(graph)
    most = stiffest(laplacian) if springs.spread > 0 else 0.0
    squared = springs.spread**2
    steps = 1
    while True:
        step = 1 / (rate * steps)
        found = _coefficients(springs, squared * most, step)
        if len(found) < MOST_TERMS:
            break
        steps *= 2
    identity = diags_array(np.ones(len(graph.places)))
    scaled = csr_array(laplacian * (2 / most) - identity) if most > 0 else csr_array(identity * 0.0)
    scaled.eliminate_zeros()  # of right angles there are many
    return Propagator(found, near_rows(scaled), steps)


def _coefficients(springs: Springs, most: float, step: float) -> Doubles:
    """Of the expansion between a stiffness of 0 and `most`, `(terms, 2, 4)`."""
    if most == 0:
        return step_matrices(springs, np.zeros(1), step)
    count = 16
    while True:
        angle = np.pi * (np.arange(count) + 0.5) / count
        values = step_matrices(springs, most * (np.cos(angle) + 1) / 2, step)
        of_term = np.cos(np.arange(count)[:, None] * angle) * (2 / count)
        of_term[0] /= 2
        made = np.einsum("kn,nij->kij", of_term, values)
        size = (np.abs(made) / np.maximum(np.abs(made).max(axis=0), 1e-300)).max(axis=(1, 2))
        needed = np.flatnonzero(size > EXACT * size.max())
        if needed[-1] < 0.9 * count or count >= MOST_TERMS:
            kept: Doubles = np.ascontiguousarray(made[: needed[-1] + 1])
            return kept
        count *= 2


def advance(
    by: Propagator, height: Doubles, velocity: Doubles, start: Doubles, end: Doubles
) -> tuple[Doubles, Doubles]:
    """Height and velocity `(p,)` a frame later.

    Parameters
    ----------
    by : Propagator
        Of the springs.
    height, velocity : Doubles
        `(p,)` now.
    start, end : Doubles
        `(p,)` the signal at both frames.
    """
    for number in range(by.steps):
        low, high = (start + (end - start) * (at / by.steps) for at in (number, number + 1))
        given = np.stack([height, velocity, low, high - low], axis=1)
        if len(by.coefficients) == 1:
            made = given @ by.coefficients[0].T
        else:
            made = sum_of_polynomials(by.matrix, by.coefficients, given)
        height, velocity = np.ascontiguousarray(made.T)
    return height, velocity


def gather_springs(before: Block | None, span: Span, springs: Springs, graph: PointGraph, values: ValuesAt) -> Block:
    """Where springs are in some frames, after where they were before.

    Parameters
    ----------
    before : Block, optional
        Of the frames before; none at the first, at which they rest where their signal draws them.
    span : Span
        The frames.
    springs : Springs
        Whose signal it is.
    graph : PointGraph
        What they are handed on by.
    values : callable
        Of the signal.

    Returns
    -------
    Block
        `height`, `velocity` `(frames, p)`; `last (3, p)` the height, velocity and signal at its last frame, in double precision.
    """
    check, by = checkpoint(), propagator(springs, graph, span.rate)
    heights: list[npt.NDArray[np.float32]] = []
    velocities: list[npt.NDArray[np.float32]] = []
    height = velocity = signal = np.zeros(0)
    if before is not None:
        height, velocity, signal = np.asarray(before.arrays["last"], np.float64)
    for frame in range(span.start, span.end + 1):
        check()
        now = values(frame) * springs.strength
        if not len(signal):
            height, velocity = now * (springs.frequency > 0), np.zeros(len(now))
        else:
            height, velocity = advance(by, height, velocity, signal, now)
        signal = now
        heights.append(height.astype(np.float32))
        velocities.append(velocity.astype(np.float32))
    last = np.stack([height, velocity, signal])
    return Block({"height": np.array(heights), "velocity": np.array(velocities), "last": last})


@derived("springs at a frame", cost=Cost.INSTANT)
def springs_at(graph: PointGraph, blocks: tuple[Block, ...], frames: float, rate: float) -> Array:
    """Height and velocity at each vertex, `(2, v)`, between two frames along the curve that both fit.

    Parameters
    ----------
    graph : PointGraph
        With p points.
    blocks : tuple of Block
        Of the shot, as far as they are needed.
    frames : float
        Since the shot's first.
    rate : float
        Frames per second.
    """
    return np.ascontiguousarray(between_frames(blocks, frames, rate)[:, graph.one], np.float32)


def between_frames(blocks: tuple[Block, ...], frames: float, rate: float) -> Doubles:
    """Height and velocity `(2, p)` between two frames, along the curve that both fit.

    Parameters
    ----------
    blocks : tuple of Block
        Of the shot, as far as they are needed.
    frames : float
        Since the first frame of these.
    rate : float
        Frames per second.
    """
    low = np.floor(frames)
    share, step = frames - low, 1 / rate
    h0, h1 = between(blocks, "height", low), between(blocks, "height", low + 1)
    v0, v1 = between(blocks, "velocity", low) * step, between(blocks, "velocity", low + 1) * step
    if share == 0 or low < 0 or np.array_equal(h0, h1):
        return np.stack([h0, v0 / step])
    rest = h1 - h0
    a, b = 3 * rest - 2 * v0 - v1, v0 + v1 - 2 * rest
    return np.stack([h0 + share * (v0 + share * (a + share * b)), (v0 + share * (2 * a + 3 * share * b)) / step])
