"""A named number in a parameter's place."""

from typing import Any

from texallon.core.document.base import Finite, Model, Name


class NumberRef(Model):
    """A named number in a parameter's place: its value times `times`, plus `plus`."""

    number: Name
    times: Finite = 1.0
    plus: Finite = 0.0

    def value_of(self, value: float) -> float:
        """What stands in the parameter's place where the number has a value.

        Parameters
        ----------
        value : float
            Of the named number.

        Examples
        --------
        >>> NumberRef(number="n", times=2.0, plus=1.0).value_of(3.0)
        7.0
        """
        return value * self.times + self.plus


def is_number_ref(value: Any) -> bool:
    """Whether a parameter's value names a number.

    Parameters
    ----------
    value : object
        Of a parameter.
    """
    return isinstance(value, dict) and "number" in value and value.keys() <= {"number", "times", "plus"}
