"""Which of three colour channels a path follows, where they go different ways."""

from texallon.core.kernel import Float, inlined


@inlined
def channel_chances(r: Float, g: Float, b: Float) -> tuple[Float, Float, Float]:
    """Chances of following each channel, by what it carries.

    Parameters
    ----------
    r : float
        Red that a path carries.
    g : float
        Green that a path carries.
    b : float
        Blue that a path carries.
    """
    total = r + g + b
    return (r / total, g / total, b / total) if total > 0.0 else (1.0 / 3.0, 1.0 / 3.0, 1.0 / 3.0)
