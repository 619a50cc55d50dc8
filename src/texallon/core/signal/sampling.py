"""A signal's values at points that somebody gives, apart from any picture."""

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from texallon.core.document.carried_looks import layer_channels
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.names import nearest
from texallon.core.document.problem import DocumentError, Problem, pointer
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.kernel import Array
from texallon.core.points import ATTRIBUTE, attribute_name, is_attribute, point_data_kind, width_of
from texallon.core.signal.planner import Planner
from texallon.core.signal.run import evaluate, fill_missing


def sample_signal(shot: Shot, look: str, signal: str, arrays: Mapping[str, npt.NDArray[np.generic]]) -> Array:
    """Values `(n,)` or `(n, 3)` of a signal at points.

    `signal` is a named signal of the shot, `LAYER.where` for a layer's mask, `LAYER.CHANNEL` for what a layer puts into
    a channel, or a channel's name for its final value. `arrays` holds `position (n, 3)` and what else the points have;
    names that no kind of point data has are attributes.
    Raises `DocumentError` or `ValueError`.

    Parameters
    ----------
    shot : Shot
        A checked document.
    look : str
        The look's name.
    signal : str
        A shared signal, `LAYER.where`, `LAYER.CHANNEL` or a channel.
    arrays : mapping
        `position (n, 3)` and what else the points have.

    Returns
    -------
    Array
        `(n, 3)`.
    """
    data, count = _columns(arrays)
    planner = Planner(resolve(shot))
    planner.want("value", _find(planner, shot, look, signal))
    plan = planner.plan()
    given = set(data)
    lacking = sorted(need for need in plan.required_data if is_attribute(need) and need not in given)
    if lacking:
        raise ValueError(f"the points lack {', '.join(attribute_name(name) for name in lacking)}")
    lacking = sorted(
        need
        for need in plan.required_data
        if need not in given and not is_attribute(need) and point_data_kind(need).required
    )
    if lacking:
        raise ValueError(f"the points lack {', '.join(lacking)}, which the signal reads")
    value = evaluate(plan, plan.points(count, fill_missing(plan.required_data, data, count)))["value"]
    return np.ascontiguousarray(value[0] if value.shape[0] == 1 else value.T)


def _columns(arrays: Mapping[str, npt.NDArray[np.generic]]) -> tuple[dict[str, Array], int]:
    if "position" not in arrays:
        raise ValueError("the points have no array “position” of shape (n, 3)")
    count = len(arrays["position"])
    data: dict[str, Array] = {}
    for name, values in arrays.items():
        if values.dtype.kind not in "fiu":
            raise ValueError(f"“{name}” holds {values.dtype}, not numbers")
        flat = values.reshape(len(values), -1) if values.ndim else values.reshape(1, 1)
        width = width_of(name)
        if len(flat) != count or (width is not None and flat.shape[1] != width):
            wanted = f"({count}, {width})" if width and width > 1 else f"({count},)"
            raise ValueError(f"“{name}” has shape {values.shape}; {wanted} is needed")
        key = name if width is not None else ATTRIBUTE + name
        data[key] = np.ascontiguousarray(flat.T, np.float32)
    return data, count


def _find(planner: Planner, shot: Shot, look_name: str, signal: str) -> int:
    looks = [look.name for look in shot.looks]
    if look_name not in looks:
        raise DocumentError([Problem("/looks", f"there is no look “{look_name}”", nearest(look_name, looks))])
    look_index = looks.index(look_name)
    look = shot.looks[look_index]
    if signal in [each.name for each in shot.signals]:
        return planner.signal(signal, ("signals",))
    if signal in CHANNEL_BY_NAME:
        return planner.channel(look, signal, ("looks", look_index))
    layers = [layer.name for layer in look.layers]
    layer_name, _, what = signal.rpartition(".")
    known = [*(each.name for each in shot.signals), *CHANNEL_BY_NAME, *(f"{name}.where" for name in layers)]
    if layer_name in layers:
        index = layers.index(layer_name)
        layer = look.layers[index]
        at = ("looks", look_index, "layers", index)
        if what == "where":
            return planner.mask(layer, at)
        names = layer_channels(layer, planner.shot.carried_looks)
        if what in layer.channels:
            return planner.layer_channel(layer, what, at)
        if what in names:
            return planner.carried_channel(
                layer, what, at, planner.channel(look, what, ("looks", look_index), index - 1)
            )
        known = [f"{layer_name}.{name}" for name in ("where", *sorted(names))]
    here = ("looks", look_index)
    raise DocumentError([Problem(pointer(*here), f"there is no signal “{signal}”", nearest(signal, known))])
