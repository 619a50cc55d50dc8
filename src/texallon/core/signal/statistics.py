"""What a set of values looks like: ends, mean, histogram, and what is not a finite number."""

from dataclasses import dataclass

import numpy as np

from texallon.core.kernel import Array

BINS = 64


@dataclass(frozen=True)
class Statistics:
    """`low`, `mean`, `high` of the finite values, `counts` of `BINS` even bins between them, and the odd ones out.

    `negative` of the `count` finite ones lie below 0; `not_finite` are all others, `nan` of them no number at all.

    Between `inner_low` and `inner_high` lie all but the lowest and highest fiftieth (2nd and 98th percentile).
    """

    count: int
    low: float
    mean: float
    high: float
    counts: tuple[int, ...]
    not_finite: int
    inner_low: float = 0.0
    inner_high: float = 0.0
    negative: int = 0
    nan: int = 0


def statistics(values: Array) -> Statistics:
    """Statistics of any array; a colour is measured by all its channels together.

    Parameters
    ----------
    values : Array
        Of any shape.
    """
    flat = values.ravel()
    finite = flat[np.isfinite(flat)]
    nan = int(np.isnan(flat).sum()) if len(finite) < len(flat) else 0
    if len(finite) == 0:
        return Statistics(0, 0.0, 0.0, 0.0, (0,) * BINS, len(flat), nan=nan)
    low, high = float(finite.min()), float(finite.max())
    reach = high - low
    scale = np.float32(BINS / reach) if reach > 0 else np.float32(0)
    with np.errstate(over="ignore", invalid="ignore"):
        bins = np.clip(np.nan_to_num((finite - np.float32(low)) * scale), 0, BINS - 1).astype(np.int64)
    counts = np.bincount(bins, minlength=BINS)
    mean = float(finite.mean(dtype=np.float64))
    inner_low, inner_high = (float(x) for x in np.percentile(finite, (2, 98)))
    odd = len(flat) - len(finite)
    negative = int((finite < 0).sum())
    return Statistics(len(finite), low, mean, high, tuple(counts.tolist()), odd, inner_low, inner_high, negative, nan)
