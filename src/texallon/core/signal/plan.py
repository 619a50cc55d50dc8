"""From recipes to a plan: the steps to run, in order, each once.

Every step becomes a node whose key is a hash of its op, its parameters, the placements it measures in and the
keys of what it takes. Equal sub-recipes therefore share a node, and after an edit only nodes with new keys,
which lie downstream of it, have to run again.
"""

import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np

from texallon.core.document.channels import CHANNEL_BY_NAME, CHANNELS
from texallon.core.document.look import Layer, Look
from texallon.core.document.names import nearest
from texallon.core.document.problem import DocumentError, Problem, pointer
from texallon.core.document.recipe import Recipe, SignalRef, Step
from texallon.core.document.shot import Shot
from texallon.core.ops.constant import Constant
from texallon.core.ops.op import LocatorRef, Op, Place, Refinement, place_key
from texallon.core.ops.points import Matrix
from texallon.core.ops.registry import make_op
from texallon.core.signal.blend import LayerBlend
from texallon.core.signal.placement import locator_matrix

Path = tuple[str | int, ...]


@dataclass(frozen=True)
class Node:
    """One step to run: `incoming` and `inputs` are positions of nodes that stand before it."""

    key: str
    op: Op
    incoming: int | None
    inputs: Mapping[str, int]
    width: int


@dataclass(frozen=True)
class Plan:
    """Nodes in an order in which each follows what it takes, and which of them were asked for."""

    nodes: tuple[Node, ...]
    outputs: Mapping[str, int]
    needs: frozenset[str]
    frames: Mapping[str, Matrix]

    def key(self, output: str) -> str:
        """The content hash of an output's value."""
        return self.nodes[self.outputs[output]].key

    def width(self, output: str) -> int:
        return self.nodes[self.outputs[output]].width


@dataclass
class Planner:
    """Collects the nodes for what is wanted of one shot; raises `DocumentError` for what can't be planned."""

    shot: Shot
    _nodes: list[Node] = field(default_factory=list)
    _by_key: dict[str, int] = field(default_factory=dict)
    _signals: dict[str, int] = field(default_factory=dict)
    _frames: dict[str, Matrix] = field(default_factory=dict)
    _outputs: dict[str, int] = field(default_factory=dict)

    def want(self, name: str, node: int) -> None:
        """Ask for a node's value under a name."""
        self._outputs[name] = node

    def plan(self) -> Plan:
        """Only what the wanted outputs need."""
        keep: set[int] = set()
        waiting = list(self._outputs.values())
        while waiting:
            index = waiting.pop()
            if index not in keep:
                keep.add(index)
                node = self._nodes[index]
                waiting += [*node.inputs.values(), *([] if node.incoming is None else [node.incoming])]
        order = sorted(keep)
        moved = {old: new for new, old in enumerate(order)}
        nodes = tuple(
            Node(
                node.key,
                node.op,
                None if node.incoming is None else moved[node.incoming],
                {name: moved[index] for name, index in node.inputs.items()},
                node.width,
            )
            for node in (self._nodes[index] for index in order)
        )
        needs: set[str] = set()
        used: set[str] = set()
        for node in nodes:
            needs |= node.op.needs()
            used |= {place_key(place) for place in node.op.places()}
        frames = {name: matrix for name, matrix in self._frames.items() if name in used}
        outputs = {name: moved[index] for name, index in self._outputs.items()}
        return Plan(nodes, outputs, frozenset(needs), frames)

    def recipe(self, recipe: Recipe, path: Path, trail: tuple[str, ...] = ()) -> list[int]:
        """The node after each step, in order. A step that is off passes its input on."""
        results: list[int] = []
        for index, step in enumerate(recipe.steps):
            at = (*path, "steps", index)
            before = results[-1] if results else None
            results.append(self._step(step, before, at, trail))
        return results

    def signal(self, name: str, at: Path, trail: tuple[str, ...] = ()) -> int:
        """The node of a named signal; a loop is refused by naming it."""
        if name in trail:
            loop = " → ".join([*trail[trail.index(name) :], name])
            raise DocumentError([Problem(pointer(*at), f"signals go round in a circle: {loop}")])
        if name not in self._signals:
            names = [signal.name for signal in self.shot.signals]
            if name not in names:
                raise DocumentError([Problem(pointer(*at), f"there is no signal “{name}”", nearest(name, names))])
            index = names.index(name)
            path = ("signals", index, "recipe")
            self._signals[name] = self.recipe(self.shot.signals[index].recipe, path, (*trail, name))[-1]
        return self._signals[name]

    def mask(self, layer: Layer, at: Path) -> int:
        """The node of a layer's mask, before opacity."""
        if layer.where is None:
            return self._constant(1.0)
        node = self.recipe(layer.where, (*at, "where"))[-1]
        if self._nodes[node].width != 1:
            last = len(layer.where.steps) - 1
            reason = "a mask is a number, and this recipe gives a colour"
            raise DocumentError([Problem(pointer(*at, "where", "steps", last), reason, "end it with a number")])
        return node

    def channel(self, look: Look, name: str, at: Path, below: int | None = None) -> int:
        """The node of a channel's final value: all layers blended, `below` being the last layer that counts."""
        channel = CHANNEL_BY_NAME[name]
        value = self._constant(channel.default if channel.width > 1 else channel.default[0])
        for index, layer in enumerate(look.layers if below is None else look.layers[: below + 1]):
            entry = layer.channels.get(name)
            if entry is None or not layer.on or layer.opacity == 0:
                continue
            here = (*at, "layers", index)
            own = self.layer_channel(layer, name, here)
            blend = LayerBlend(mode=entry.blend, opacity=layer.opacity)
            value = self._add(blend, value, {"value": own, "mask": self.mask(layer, here)})
        return value

    def layer_channel(self, layer: Layer, name: str, at: Path) -> int:
        """The node of what a layer puts into a channel, before its mask."""
        where = (*at, "channels", name)
        if name not in CHANNEL_BY_NAME:
            raise DocumentError(
                [Problem(pointer(*where), f"there is no channel “{name}”", nearest(name, CHANNEL_BY_NAME))]
            )
        node = self.recipe(layer.channels[name].recipe, (*where, "recipe"))[-1]
        if self._nodes[node].width > CHANNEL_BY_NAME[name].width:
            reason = f"{name} is a number, and this recipe gives a colour"
            raise DocumentError([Problem(pointer(*where, "recipe"), reason, "end it with a number")])
        return node

    def _step(self, step: Step, before: int | None, at: Path, trail: tuple[str, ...]) -> int:
        op = make_op(step, *at)
        if isinstance(op, list):
            raise DocumentError(op)
        if op.kind == "source" and before is not None:
            raise DocumentError([Problem(pointer(*at), f"“{op.name}” is a source", "a source only stands first")])
        if op.kind == "step" and before is None:
            raise DocumentError([Problem(pointer(*at), f"“{op.name}” has nothing before it", "put a source first")])
        if not step.on:
            return self._constant(0.0) if before is None else before
        incoming_width = 0 if before is None else self._nodes[before].width
        if isinstance(op, Refinement) and op.scalar_only and incoming_width > 1:
            raise DocumentError([Problem(pointer(*at), f"“{op.name}” takes a number, and a colour comes in")])
        inputs: dict[str, int] = {}
        for name, value in op.inputs().items():
            here = (*at, "params", name)
            node = self.signal(value.signal, here, trail) if isinstance(value, SignalRef) else self._constant(value)
            if name in op.scalar_inputs() and self._nodes[node].width > 1:
                raise DocumentError([Problem(pointer(*here), f"{name} is a number, and this is a colour")])
            inputs[name] = node
        for place in op.places():
            self._frame(place, at)
        return self._add(op, before, inputs)

    def _frame(self, place: Place, at: Path) -> None:
        if not isinstance(place, LocatorRef) or place_key(place) in self._frames:
            return
        try:
            matrix = locator_matrix(self.shot, place.locator)
        except KeyError:
            hint = nearest(place.locator, [locator.name for locator in self.shot.locators])
            raise DocumentError(
                [Problem(pointer(*at, "params"), f"there is no locator “{place.locator}”", hint)]
            ) from None
        self._frames[place_key(place)] = np.linalg.inv(matrix)[:3].astype(np.float32)

    def _constant(self, value: float | tuple[float, ...]) -> int:
        return self._add(Constant.model_validate({"value": value}), None, {})

    def _add(self, op: Op, incoming: int | None, inputs: Mapping[str, int]) -> int:
        digest = hashlib.blake2b(digest_size=16)
        digest.update(f"{type(op).__name__}{op.model_dump_json()}".encode())
        for place in op.places():
            if place_key(place) in self._frames:
                digest.update(self._frames[place_key(place)].tobytes())
        taken = ([] if incoming is None else [("", incoming)]) + sorted(inputs.items())
        for name, index in taken:
            digest.update(f"|{name}={self._nodes[index].key}".encode())
        key = digest.hexdigest()
        if key not in self._by_key:
            widths = {name: self._nodes[index].width for name, index in inputs.items()}
            if isinstance(op, LayerBlend):
                widths.pop("mask")
            width = op.result_width(0 if incoming is None else self._nodes[incoming].width, widths)
            self._nodes.append(Node(key, op, incoming, dict(inputs), width))
            self._by_key[key] = len(self._nodes) - 1
        return self._by_key[key]


def plan_look(shot: Shot, look: Look, channels: Iterable[str] | None = None) -> Plan:
    """The plan for a look's channels (all that any layer touches, unless given), outputs by channel name."""
    touched = {name for layer in look.layers if layer.on for name in layer.channels}
    wanted = [channel.name for channel in CHANNELS if channel.name in (touched if channels is None else set(channels))]
    planner = Planner(shot)
    at: Path = ("looks", shot.looks.index(look))
    for name in wanted:
        planner.want(name, planner.channel(look, name, at))
    return planner.plan()


def check_shot(shot: Shot) -> list[Problem]:
    """Every problem of ops, signals and channels, each once, with its place."""
    problems: dict[str, Problem] = {}

    def attempt(planner: Planner, recipe: Recipe, path: Path, trail: tuple[str, ...] = ()) -> None:
        try:
            planner.recipe(recipe, path, trail)
        except DocumentError as error:
            for problem in error.problems:
                problems.setdefault(str(problem), problem)

    planner = Planner(shot)
    for index, signal in enumerate(shot.signals):
        attempt(planner, signal.recipe, ("signals", index, "recipe"), (signal.name,))
    for look_index, look in enumerate(shot.looks):
        for layer_index, layer in enumerate(look.layers):
            at: Path = ("looks", look_index, "layers", layer_index)
            try:
                planner.mask(layer, at)
            except DocumentError as error:
                for problem in error.problems:
                    problems.setdefault(str(problem), problem)
            for name in layer.channels:
                try:
                    planner.layer_channel(layer, name, at)
                except DocumentError as error:
                    for problem in error.problems:
                        problems.setdefault(str(problem), problem)
    return list(problems.values())
