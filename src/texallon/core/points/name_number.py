"""Numbers that stand for names."""

import zlib


def name_number(name: str) -> float:
    """A whole number below 2²⁴ that stays with a name, so that a random value per object outlives edits of others.

    Parameters
    ----------
    name : str
        Of an object, or of a part and its object.
    """
    return float(zlib.crc32(name.encode()) & 0xFFFFFF)
