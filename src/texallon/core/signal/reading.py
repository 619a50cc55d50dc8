"""A reading: every value along the way at one point, in order, and which step or layer decided the outcome."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from texallon.core.document.carried_looks import CarriedLooks, layer_channels
from texallon.core.document.channels import CHANNEL_BY_NAME, CHANNELS
from texallon.core.document.look import Blend, Layer, Look
from texallon.core.document.problem import Path
from texallon.core.document.recipe import Recipe
from texallon.core.document.resolved import ResolvedShot
from texallon.core.kernel import Array
from texallon.core.ops.points import Points
from texallon.core.signal.plan import Plan
from texallon.core.signal.planner import Planner

Values = Mapping[str, Array]


@dataclass(frozen=True)
class StepReading:
    """A step's value at the point; `reason` says why what came in did not matter, where it did not."""

    op: str
    on: bool
    space: bool
    value: tuple[float, ...]
    reason: str
    decided: bool


@dataclass(frozen=True)
class ChannelReading:
    """What a layer puts into a channel, step by step, and the channel's value after it."""

    name: str
    label: str
    blend: str
    value: tuple[float, ...]
    after: tuple[float, ...]
    steps: tuple[StepReading, ...]


@dataclass(frozen=True)
class LayerReading:
    """A layer at the point; `weight` is its mask times its opacity, `look` the name of the look that it carries."""

    name: str
    on: bool
    mask: tuple[StepReading, ...]
    weight: float
    channels: tuple[ChannelReading, ...]
    look: str = ""


@dataclass(frozen=True)
class Outcome:
    """A channel's final value, and the layer that decided it (empty where it is the default).

    Where the layers ask for more than the channel's range allows, `value` is what it is held at and `asked` what they asked for.
    """

    name: str
    label: str
    unit: str
    value: tuple[float, ...]
    layer: str
    asked: tuple[float, ...] = ()


@dataclass(frozen=True)
class Reading:
    """The layers from the bottom up, as they are blended, and the resulting channels."""

    layers: tuple[LayerReading, ...]
    channels: tuple[Outcome, ...]


@dataclass
class ReadingPlan:
    """Everything that a reading of a look wants; `plan` is evaluated at one point and given to `read`."""

    shot: ResolvedShot
    look: Look
    _planner: Planner = field(init=False)
    _nodes: dict[Path, list[int]] = field(default_factory=dict)
    _carried: CarriedLooks = field(init=False)

    def __post_init__(self) -> None:
        self._planner = Planner(self.shot)
        self._carried = self.shot.carried_looks
        index = self.shot.looks.index(self.look)
        for number, layer in enumerate(self.look.layers):
            at: Path = ("looks", index, "layers", number)
            if layer.where is not None:
                self._want(layer.where, (*at, "where"))
            for name, entry in layer.channels.items():
                self._want(entry.recipe, (*at, "channels", name, "recipe"))
            for name in layer_channels(layer, self._carried):
                after = self._planner.channel(self.look, name, ("looks", index), number)
                self._planner.want(f"after {number} {name}", after)
                if layer.look is not None:
                    below = self._planner.channel(self.look, name, ("looks", index), number - 1)
                    own = self._planner.carried_channel(layer, name, at, below)
                    self._planner.want(f"below {number} {name}", below)
                    self._planner.want(f"own {number} {name}", own)

    @property
    def plan(self) -> Plan:
        return self._planner.plan()

    def read(self, values: Values, points: Points) -> Reading:
        """The reading, given the plan's values at one point; `points` are that one point, to try steps on.

        Parameters
        ----------
        values : Values
            The plan's, at one point.
        points : Points
            That one point.
        """
        index = self.shot.looks.index(self.look)
        layers = [
            self._layer(layer, number, ("looks", index, "layers", number), values, points)
            for number, layer in enumerate(self.look.layers)
        ]
        return Reading(tuple(layers), tuple(self._outcomes(layers)))

    def _want(self, recipe: Recipe, path: Path) -> None:
        nodes = self._planner.recipe(recipe, path)
        self._nodes[path] = nodes
        for index in nodes:
            node = self._planner.node(index)
            for taken in (index, *node.takes):
                self._planner.want(f"node {taken}", taken)

    def _layer(self, layer: Layer, number: int, at: Path, values: Values, points: Points) -> LayerReading:
        mask: tuple[StepReading, ...] = ()
        weight = 1.0
        if layer.where is not None:
            mask = self._steps(layer.where, (*at, "where"), values, points)
            last = mask[-1].value[0]
            weight = min(max(last, 0.0), 1.0) if last == last else 0.0
        weight *= layer.plain_opacity if layer.on else 0.0
        channels = []
        for name, entry in layer.channels.items():
            steps = self._steps(entry.recipe, (*at, "channels", name, "recipe"), values, points)
            after = _numbers(values[f"after {number} {name}"])
            label = CHANNEL_BY_NAME[name].label
            channels.append(ChannelReading(name, label, entry.blend.value, steps[-1].value, after, steps))
        if layer.look is None:
            return LayerReading(layer.name, layer.on, mask, weight, tuple(channels))
        names = layer_channels(layer, self._carried)
        carried = [self._carried_channel(each.name, number, values) for each in CHANNELS if each.name in names]
        shown = tuple(each for each in carried if each is not None)
        return LayerReading(layer.name, layer.on, mask, weight, shown, layer.look.look)

    def _carried_channel(self, name: str, number: int, values: Values) -> ChannelReading | None:
        """What a look that a layer carries puts into a channel; nothing where it leaves it as it is below."""
        own = _numbers(values[f"own {number} {name}"])
        if own == _numbers(values[f"below {number} {name}"]):
            return None
        after = _numbers(values[f"after {number} {name}"])
        return ChannelReading(name, CHANNEL_BY_NAME[name].label, Blend.replace.value, own, after, ())

    def _steps(self, recipe: Recipe, path: Path, values: Values, points: Points) -> tuple[StepReading, ...]:
        format_input: list[tuple[str, bool, bool, tuple[float, ...], str]] = []
        for step, index in zip(recipe.steps, self._nodes[path], strict=True):
            node = self._planner.node(index)
            value = values[f"node {index}"]
            space = node.op.kind == "warp"
            reason = ""
            if step.on and node.op.kind == "modifier" and node.op.name == step.op and node.incoming is not None:
                incoming = values[f"node {node.incoming}"]
                inputs = {name: values[f"node {taken}"] for name, taken in node.inputs.items()}
                reason = _reason(
                    node.op.settled(inputs).verdict(incoming, inputs, value),
                    node.op.run,
                    points,
                    incoming,
                    inputs,
                    value,
                )
            format_input.append((step.op, step.on, space, _numbers(value[:3] if space else value), reason))
        pinned = [number for number, each in enumerate(format_input) if each[4]]
        first = next(number for number, each in enumerate(format_input) if not each[2])
        decider = pinned[-1] if pinned else first
        return tuple(StepReading(*each, number == decider) for number, each in enumerate(format_input))

    def _outcomes(self, layers: list[LayerReading]) -> list[Outcome]:
        result = []
        for channel in CHANNELS:
            touching = [
                (layer, entry)
                for layer in layers
                for entry in layer.channels
                if entry.name == channel.name and layer.on
            ]
            if not touching:
                continue
            asked = touching[-1][1].after
            value = tuple(channel.hold(each) for each in asked)
            beyond = asked if any(a != b for a, b in zip(value, asked, strict=True)) else ()
            result.append(Outcome(channel.name, channel.label, channel.unit, value, _decider(touching), beyond))
        return result


def _decider(touching: list[tuple[LayerReading, ChannelReading]]) -> str:
    """The layer with the largest say: each one that replaces takes its weight from those below it."""
    say: dict[str, float] = {}
    for layer, entry in touching:
        if entry.blend == Blend.replace:
            say = {name: share * (1 - layer.weight) for name, share in say.items()}
        say[layer.name] = say.get(layer.name, 0.0) + layer.weight
    best = max(say, key=lambda name: say[name])
    return best if say[best] > 0 else ""


def _reason(
    verdict: str,
    run: Callable[[Points, Array, Mapping[str, Array], Array], None],
    points: Points,
    incoming: Array,
    inputs: Mapping[str, Array],
    out: Array,
) -> str:
    """The op's own words, or, where it has none, that other values coming in would have given the same."""
    if verdict:
        return verdict
    if not np.isfinite(incoming).all():
        return ""
    for way in (-1, 1):
        tried = (incoming * np.float32(1 + 0.01 * way) + np.float32(0.001 * way)).astype(np.float32)
        again = np.empty_like(out)
        with np.errstate(all="ignore"):
            run(points, tried, inputs, again)
        if not np.array_equal(again, out, equal_nan=True):
            return ""
    return f"a little more or less than {number_text(float(incoming[0, 0]))} makes no difference"


def _numbers(value: Array) -> tuple[float, ...]:
    return tuple(float(x) for x in value[:, 0])


def number_text(value: float) -> str:
    """A number as a person reads it: three significant places.

    Parameters
    ----------
    value : float
        Any number.
    """
    return f"{value:.3g}"


def as_json(reading: Reading) -> dict[str, Any]:
    """Plain values; what is not finite becomes a word.

    Parameters
    ----------
    reading : Reading
        Of one point.
    """

    def plain(value: Any) -> Any:
        if isinstance(value, float):
            return value if np.isfinite(value) else ("NaN" if value != value else "∞" if value > 0 else "−∞")
        if isinstance(value, dict):
            return {key: plain(each) for key, each in value.items()}
        return [plain(each) for each in value] if isinstance(value, (list, tuple)) else value

    result: dict[str, Any] = plain(asdict(reading))
    return result


def lines(reading: Reading) -> Iterator[str]:
    """The reading as lines of text, the top layer first; what decided stands marked with its reason.

    Parameters
    ----------
    reading : Reading
        Of one point.
    """

    def shown(value: tuple[float, ...]) -> str:
        return " ".join(number_text(x) for x in value)

    for layer in reversed(reading.layers):
        carried = f", look “{layer.look}”" if layer.look else ""
        yield f"{layer.name}{carried}{'' if layer.on else ' (off)'}: {number_text(layer.weight)}"
        for step in layer.mask:
            mark = f"  ← {step.reason}" if step.decided and step.reason else ("  ←" if step.decided else "")
            yield f"    {step.op}{'' if step.on else ' (off)'}: {shown(step.value)}{mark}"
        for channel in layer.channels:
            yield f"    {channel.label} {'=' if channel.blend == 'replace' else channel.blend}: {shown(channel.value)}"
    for outcome in reading.channels:
        held = f" held, asked for {shown(outcome.asked)}" if outcome.asked else ""
        yield f"{outcome.label} {shown(outcome.value)} {outcome.unit}({outcome.layer or 'default'}){held}"
