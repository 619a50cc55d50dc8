"""Damped oscillators that are drawn to a signal, moved ahead exactly while that goes straight from one value to the next."""

import numpy as np
import numpy.typing as npt
from scipy.linalg import expm

Doubles = npt.NDArray[np.float64]


def driven_steps(stiffness: Doubles, damping: Doubles, drawn: Doubles, step: float) -> Doubles:
    """What a step of u″ = drawn · s − stiffness · u − damping · u′ makes of u, u′, the signal s and its change over the step, `(n, 2, 4)`.

    Parameters
    ----------
    stiffness : Doubles
        `(n,)` 1/s².
    damping : Doubles
        `(n,)` 1/s.
    drawn : Doubles
        `(n,)` 1/s², what the signal is multiplied by.
    step : float
        Seconds.

    References
    ----------
    C. Van Loan, "Computing integrals involving the matrix exponential", IEEE Trans. Automatic Control 23 (1978).
    """
    matrix = np.zeros((len(stiffness), 4, 4))
    matrix[:, 0, 1] = 1.0
    matrix[:, 1, 0] = -stiffness
    matrix[:, 1, 1] = -damping
    matrix[:, 1, 2] = drawn
    matrix[:, 2, 3] = 1 / step
    return np.asarray(expm(matrix * step))[:, :2]
