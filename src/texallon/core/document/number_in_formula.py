"""Named numbers within formulas: `number("name")`. What stands there is text, so it is looked for and replaced as text."""

import re
from collections.abc import Callable

CALL = re.compile(r"""\bnumber\(\s*(?P<quote>["'])(?P<name>(?:(?!(?P=quote)).)*)(?P=quote)\s*\)""")


def numbers_in_formula(text: str) -> list[str]:
    """The names of numbers that a formula uses, in order.

    Parameters
    ----------
    text : str
        A formula.

    Examples
    --------
    >>> numbers_in_formula('number("size") * 2 + signal("damp")')
    ['size']
    """
    return [found["name"] for found in CALL.finditer(text)]


def formula_with(text: str, write: Callable[[str], str | None]) -> str:
    """A formula with something else in the place of its numbers.

    Parameters
    ----------
    text : str
        A formula.
    write : callable
        Gives what is written for a name; nothing leaves it as it is.

    Examples
    --------
    >>> formula_with('number("size") * 2', {"size": "(0.5)"}.get)
    '(0.5) * 2'
    """

    def changed(found: re.Match[str]) -> str:
        made = write(found["name"])
        return found[0] if made is None else made

    return CALL.sub(changed, text)
