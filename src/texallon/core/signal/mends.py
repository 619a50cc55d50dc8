"""Changes that are offered where a colour comes in and a number is wanted."""

from texallon.core.document.problem import Mend, Path, pointer
from texallon.core.document.recipe import Recipe, SignalRef
from texallon.core.ops.op import Input

LUMINANCE = {"op": "luminance"}


def before_step(at: Path, op: str) -> tuple[Mend, ...]:
    """For a step that takes a number.

    Parameters
    ----------
    at : Path
        Of the step.
    op : str
        Its op's name.
    """
    return (
        Mend("use its luminance", ({"op": "add", "path": pointer(*at), "value": LUMINANCE},)),
        Mend(f"take {op} away", ({"op": "remove", "path": pointer(*at)},)),
    )


def after_recipe(recipe: Path) -> tuple[Mend, ...]:
    """For a recipe that should end with a number.

    Parameters
    ----------
    recipe : Path
        Of the recipe.
    """
    return (Mend("use its luminance", ({"op": "add", "path": pointer(*recipe, "steps", "-"), "value": LUMINANCE},)),)


def within_input(at: Path, value: Input) -> tuple[Mend, ...]:
    """For a signal or nested recipe in a parameter that is a number.

    Parameters
    ----------
    at : Path
        Of the parameter.
    value : Input
        What stands there.
    """
    if isinstance(value, Recipe):
        return after_recipe(at)
    if isinstance(value, SignalRef) and not value.space and not value.stand_ins:
        steps = [{"op": "signal", "params": {"signal": value.signal}}, LUMINANCE]
        return (Mend("use its luminance", ({"op": "replace", "path": pointer(*at), "value": {"steps": steps}},)),)
    return ()
