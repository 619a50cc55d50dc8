"""Where large derived values are kept from one run to the next."""

from collections.abc import Mapping
from typing import Protocol

import numpy as np
import numpy.typing as npt

Arrays = Mapping[str, npt.NDArray[np.generic]]


class Disk(Protocol):
    """Arrays by the content keys of derived values. What is on it was computed by the same code on such a processor; it may be gone at any time."""

    def load(self, key: str) -> Arrays | None:
        """What is kept by a key.

        Parameters
        ----------
        key : str
            A content key.
        """

    def keep(self, key: str, arrays: Arrays) -> None:
        """Keep arrays, or give up quietly where there is no room.

        Parameters
        ----------
        key : str
            A content key.
        arrays : mapping
            By names.
        """
