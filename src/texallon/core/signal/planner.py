"""From recipes to a plan: the steps to run, in order, each once.

Every step becomes a node whose key is a hash of its op, its parameters, the placements it measures in and the
keys of what it takes. Equal sub-recipes therefore share a node, and after an edit only nodes with new keys,
which lie downstream of it, have to run again.
"""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Protocol

import numpy as np

from texallon.core.document.carried_looks import CarriedLooks
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.locator import Locator
from texallon.core.document.look import Blend, Layer, Look
from texallon.core.document.names import nearest
from texallon.core.document.problem import DocumentError, Path, Problem, pointer
from texallon.core.document.recipe import Recipe, Signal, SignalRef, Step
from texallon.core.document.resolved import Time
from texallon.core.document.space import LocatorRef, SpaceRef, reference_name
from texallon.core.ops.constant import Constant
from texallon.core.ops.op import DomainWarp, Input, Modifier, Op, Space, WrongParameterError, change_of, space_key
from texallon.core.ops.points import Matrix
from texallon.core.ops.registry import limits_of, make_op
from texallon.core.signal.blend import LayerBlend
from texallon.core.signal.mends import after_recipe, before_step, within_input
from texallon.core.signal.per_point import ASIDE_SPACES, Aside, Between, Change, WithinLimits
from texallon.core.signal.placement import Aimed, Placed, Places, Standing, camera_matrix
from texallon.core.signal.plan import Node, Plan, subset


@dataclass(frozen=True)
class Scope:
    """What surrounds a recipe: the signals that led to it, the bent space it is looked up in, and its locators' stand-ins."""

    trail: tuple[str, ...] = ()
    warped: tuple[tuple[str, int], ...] = ()
    spaces: tuple[tuple[str, Space], ...] = ()

    def bound(self, place: Space) -> Space:
        """What stands in for a place here.

        Parameters
        ----------
        place : Space
            A space that something is measured in.
        """
        return dict(self.spaces).get(reference_name(place), place) if isinstance(place, SpaceRef) else place


class PlanScope(Protocol):
    """What of a resolved shot a recipe's plan depends on: a `ResolvedShot`, or its `ScopeOfPlans`."""

    @property
    def signals(self) -> Sequence[Signal]: ...

    @property
    def locators(self) -> Sequence[Locator]: ...

    @property
    def objects(self) -> Sequence[Placed]: ...

    @property
    def object_groups(self) -> Sequence[Standing]: ...

    @property
    def carried_looks(self) -> CarriedLooks: ...

    @property
    def camera(self) -> Aimed: ...

    @property
    def time(self) -> Time: ...


@dataclass
class Planner:
    """Collects the nodes for what is wanted of one shot at its time; raises `DocumentError` for what can't be planned."""

    shot: PlanScope
    scopes: dict[str, Scope] = field(default_factory=dict)
    """For each signal that was planned, what surrounded it where it was first met."""
    _nodes: list[Node] = field(default_factory=list)
    _by_key: dict[str, int] = field(default_factory=dict)
    _signals: dict[tuple[str, Scope], int] = field(default_factory=dict)
    _world_to_space: dict[str, Matrix] = field(default_factory=dict)
    _outputs: dict[str, int] = field(default_factory=dict)

    @cached_property
    def _places(self) -> Places:
        return Places(self.shot)

    @cached_property
    def _carried_looks(self) -> CarriedLooks:
        return self.shot.carried_looks

    def want(self, name: str, node: int) -> None:
        """Ask for a node's value under a name.

        Parameters
        ----------
        name : str
            Of the signal, channel or output.
        node : int
            Position of the node.
        """
        self._outputs[name] = node

    def node(self, index: int) -> Node:
        """A node that was planned.

        Parameters
        ----------
        index : int
            Position of the node.
        """
        return self._nodes[index]

    def plan(self) -> Plan:
        """Only what the wanted outputs need."""
        return self.plan_of(self._outputs)

    def plan_of(self, wanted: Mapping[str, int]) -> Plan:
        """Only what some nodes need, which become the outputs by their names.

        Parameters
        ----------
        wanted : mapping
            Positions of nodes, or the same by name.
        """
        return subset(self._nodes, wanted, self._world_to_space, self.shot.time.frame, self.shot.time.seconds)

    def recipe(self, recipe: Recipe, path: Path, scope: Scope | None = None) -> list[int]:
        """The node after each step, in order. A step that is off passes its input on.

        Without a `scope` it is the outermost recipe; one under `/signals` is then its signal's.

        Parameters
        ----------
        recipe : Recipe
            Its steps, in reading order.
        path : Path
            Where it stands in the document, for errors.
        scope : Scope, optional
            What of the shot recipes depend on.
        """
        if scope is None:
            scope = Scope((self.shot.signals[int(path[1])].name,)) if path[:1] == ("signals",) else Scope()
        results: list[int] = []
        value: int | None = None
        warped = dict(scope.warped)
        for index, step in enumerate(recipe.steps):
            at = (*path, "steps", index)
            op = self.op(step, at, scope)
            if op.kind == "warp":
                if value is not None:
                    hint = "a space step stands before the source"
                    raise DocumentError([Problem(pointer(*at), f"“{op.name}” bends where a source is looked up", hint)])
                results.append(self._bend(op, step.on, warped, at, scope))
                continue
            value = self._step(op, step.on, value, warped, at, scope)
            results.append(value)
        if value is None:
            raise DocumentError([Problem(pointer(*path, "steps"), "the recipe has no source", "add one at its end")])
        return results

    def signal(self, name: str, at: Path, scope: Scope = Scope()) -> int:
        """The node of a named signal; a loop is refused by naming it.

        Parameters
        ----------
        name : str
            Of the signal, channel or output.
        at : Path
            Where it stands in the document, for errors.
        scope : Scope, optional
            What of the shot recipes depend on.
        """
        if name in scope.trail:
            loop = " → ".join([*scope.trail[scope.trail.index(name) :], name])
            raise DocumentError([Problem(pointer(*at), f"signals go round in a circle: {loop}")])
        known = (name, replace(scope, trail=()))
        if known not in self._signals:
            names = [signal.name for signal in self.shot.signals]
            if name not in names:
                raise DocumentError([Problem(pointer(*at), f"there is no signal “{name}”", nearest(name, names))])
            index = names.index(name)
            path = ("signals", index, "recipe")
            inner = replace(scope, trail=(*scope.trail, name))
            self.scopes.setdefault(name, inner)
            self._signals[known] = self.recipe(self.shot.signals[index].recipe, path, inner)[-1]
        return self._signals[known]

    def mask(self, layer: Layer, at: Path, scope: Scope | None = None) -> int:
        """The node of a layer's mask, before opacity.

        Parameters
        ----------
        layer : Layer
            One of the look's.
        at : Path
            Where it stands in the document, for errors.
        scope : Scope, optional
            Of the look, where a layer of another carries it.
        """
        if layer.where is None:
            return self._constant(1.0)
        node = self.recipe(layer.where, (*at, "where"), scope)[-1]
        if self._nodes[node].width != 1:
            last = len(layer.where.steps) - 1
            reason = "a mask is a number, and this recipe gives a colour"
            mends = after_recipe((*at, "where"))
            place = pointer(*at, "where", "steps", last)
            raise DocumentError([Problem(place, reason, "end it with a number", mends=mends)])
        return node

    def channel(self, look: Look, name: str, at: Path, below: int | None = None) -> int:
        """The node of a channel's final value: all layers blended, `below` being the last layer that counts.

        Parameters
        ----------
        look : Look
            One of the shot's.
        name : str
            Of the signal, channel or output.
        at : Path
            Where it stands in the document, for errors.
        below : int, optional
            `(n,)` the value below; of a look the last layer that counts.
        """
        layers = look.layers if below is None else look.layers[: below + 1]
        return self._blended(layers, name, at, self.default(name), None)

    def carried_channel(self, layer: Layer, name: str, at: Path, below: int, scope: Scope | None = None) -> int:
        """The node of a channel as the look that a layer carries makes it from what lies below, before the layer's mask.

        Parameters
        ----------
        layer : Layer
            One that carries a look.
        name : str
            Of the channel.
        at : Path
            Where the layer stands in the document, for errors.
        below : int
            The node of the channel's value below the layer.
        scope : Scope, optional
            Of the layer's own look, where another's layer carries it.
        """
        assert layer.look is not None
        outer = scope or Scope()
        found = self._carried_looks[layer.look.look]
        spaces = dict(outer.spaces) | {key: outer.bound(place) for key, place in layer.look.stand_ins.items()}
        inner = replace(outer, spaces=tuple(sorted(spaces.items(), key=lambda pair: pair[0])))
        start = self.default(name) if layer.look.bare else below
        return self._blended(found.look.layers, name, ("looks", found.number), start, inner)

    def _blended(self, layers: Sequence[Layer], name: str, at: Path, below: int, scope: Scope | None) -> int:
        """A channel's value after some layers, one after the other over what lies below."""
        value = below
        for index, layer in enumerate(layers):
            if not layer.on or layer.plain_opacity == 0:
                continue
            here = (*at, "layers", index)
            if layer.look is not None:
                own, mode = self.carried_channel(layer, name, here, value, scope), Blend.replace
                if own == value:
                    continue
            elif name in layer.channels:
                own, mode = self.layer_channel(layer, name, here, scope), layer.channels[name].blend
            else:
                continue
            if layer.where is None and layer.plain_opacity == 1 and mode is Blend.replace and self._fills(own, name):
                value = own  # it covers all: nothing is to be blended
                continue
            blend = LayerBlend(mode=mode, opacity=layer.plain_opacity)
            value = self._add(blend, value, {"value": own, "mask": self.mask(layer, here, scope)})
        return value

    def _fills(self, node: int, channel: str) -> bool:
        """Whether a value is as wide as a channel: a number in a colour is spread by the blend."""
        return self._nodes[node].width == CHANNEL_BY_NAME[channel].width

    def default(self, name: str) -> int:
        """The node of what a channel is by default.

        Parameters
        ----------
        name : str
            Of the channel.
        """
        channel = CHANNEL_BY_NAME[name]
        return self._constant(channel.default if channel.width > 1 else channel.default[0])

    def layer_channel(self, layer: Layer, name: str, at: Path, scope: Scope | None = None) -> int:
        """The node of what a layer puts into a channel, before its mask.

        Parameters
        ----------
        layer : Layer
            One of the look's.
        name : str
            Of the signal, channel or output.
        at : Path
            Where it stands in the document, for errors.
        scope : Scope, optional
            Of the look, where a layer of another carries it.
        """
        where = (*at, "channels", name)
        if name not in CHANNEL_BY_NAME:
            raise DocumentError(
                [Problem(pointer(*where), f"there is no channel “{name}”", nearest(name, CHANNEL_BY_NAME))]
            )
        node = self.recipe(layer.channels[name].recipe, (*where, "recipe"), scope)[-1]
        if self._nodes[node].width > CHANNEL_BY_NAME[name].width:
            reason = f"{name} is a number, and this recipe gives a colour"
            mends = after_recipe((*where, "recipe"))
            raise DocumentError([Problem(pointer(*where, "recipe"), reason, "end it with a number", mends=mends)])
        return node

    def op(self, step: Step, at: Path, scope: Scope) -> Op:
        """A step's op as it is within a scope: what stands in for its places is in their stead.

        Parameters
        ----------
        step : Step
            One step of a recipe.
        at : Path
            Where it stands in the document, for errors.
        scope : Scope
            What of the shot recipes depend on.
        """
        op = make_op(step, *at)
        if isinstance(op, list):
            raise DocumentError(op)
        changed = {
            name: scope.bound(value)
            for name, value in ((name, getattr(op, name)) for name in type(op).model_fields)
            if isinstance(value, SpaceRef) and scope.bound(value) != value
        }
        return op.model_copy(update=changed) if changed else op

    def _bend(self, op: Op, on: bool, warped: dict[str, int], at: Path, scope: Scope) -> int:
        """The node of a space step; while it is on, `warped` takes it in."""
        assert isinstance(op, DomainWarp)
        for place in op.spaces():
            self._add_space(place, at, scope)
        node = self._add(op, None, self._inputs(op, at, scope), warped, at)
        if on:
            warped[op.warps()] = node
        return node

    def _step(self, op: Op, on: bool, before: int | None, warped: Mapping[str, int], at: Path, scope: Scope) -> int:
        if op.kind == "source" and before is not None:
            hint = "a source stands first, after space steps"
            raise DocumentError([Problem(pointer(*at), f"“{op.name}” is a source", hint)])
        if op.kind == "modifier" and before is None:
            raise DocumentError([Problem(pointer(*at), f"“{op.name}” has nothing before it", "put a source first")])
        if not on:
            return self._constant(0.0) if before is None else before
        incoming_width = 0 if before is None else self._nodes[before].width
        if isinstance(op, Modifier) and op.scalar_only and incoming_width > 1:
            reason = f"“{op.name}” takes a number, and a colour comes in"
            raise DocumentError([Problem(pointer(*at), reason, mends=before_step(at, op.name))])
        for place in op.spaces():
            self._add_space(place, at, scope)
        # Only what a source itself looks up is bent; a second input is looked up at the point, unless it carries its own.
        inside = replace(scope, warped=tuple(sorted(warped.items()))) if op.kind == "source" else scope
        bent = warped if op.kind == "source" else dict(scope.warped)
        ends = {name: op.varied[name] for name in op.ends_last if name in op.varied}
        if not ends:
            return self._add(op, before, self._inputs(op, at, inside), bent, at)
        low, high = op.ends_last
        others = {name: value for name, value in op.varied.items() if name not in ends}
        inner = op.with_varied(others, **{low: 0.0, high: 1.0})
        within = self._add(inner, before, self._inputs(inner, at, inside), bent, at)
        between = Between(low=getattr(op, low), high=getattr(op, high)).with_varied(ends)
        return self._add(between, within, self._inputs(between, at, inside), {}, at)

    def _inputs(self, op: Op, at: Path, scope: Scope) -> dict[str, int]:
        inputs: dict[str, int] = {}
        for name, value in op.inputs().items():
            here = (*at, "params", *(int(part) if part.isdigit() else part for part in name.split("/")))
            node = self._input(value, here, scope)
            if (name in op.scalar_inputs() or name in op.varied) and self._nodes[node].width > 1:
                hint = "end its recipe with a number, such as its luminance" if name in op.varied else ""
                reason = f"{name} is a number, and this is a colour"
                mends = within_input(here, value)
                raise DocumentError([Problem(pointer(*here), reason, hint, mends=mends)])
            inputs[name] = node if name not in op.varied else self._held(op, name, node)
            if name in op.varied and name in op.bends:
                inputs[change_of(name)] = self._change(op, name, value, inputs[name], here, scope)
        return inputs

    def _held(self, op: Op, name: str, node: int) -> int:
        """A parameter's values within its limits."""
        low, high = limits_of(type(op), name)
        return self._add(WithinLimits(low=low, high=high), node, {})

    def _change(self, op: Op, name: str, value: Input, here: int, at: Path, scope: Scope) -> int:
        """The node of how much a parameter changes within a sample: its recipe once more, aside along each axis."""
        aside: dict[str, int] = {}
        for axis in range(3):
            warped = dict(scope.warped)
            for space in ASIDE_SPACES:
                step = Aside(space=space, along=axis)
                warped[step.warps()] = self._add(step, None, {}, dict(scope.warped))
            bent = replace(scope, warped=tuple(sorted(warped.items())))
            aside[str(axis)] = self._held(op, name, self._input(value, at, bent))
        return self._add(Change(), here, aside)

    def _input(self, value: Input, at: Path, scope: Scope) -> int:
        if isinstance(value, Recipe):
            return self.recipe(value, at, scope)[-1]
        if not isinstance(value, SignalRef):
            return self._constant(value)
        warped = dict(scope.warped)
        for index, step in enumerate(value.space):
            here = (*at, "space", index)
            op = self.op(step, here, scope)
            if op.kind != "warp":
                raise DocumentError([Problem(pointer(*here), f"“{op.name}” does not bend space", "use a space step")])
            self._bend(op, step.on, warped, here, scope)
        bound = {name: scope.bound(place) for name, place in value.stand_ins.items()}
        spaces = tuple(sorted((dict(scope.spaces) | bound).items(), key=lambda pair: pair[0]))
        return self.signal(value.signal, at, replace(scope, warped=tuple(sorted(warped.items())), spaces=spaces))

    def _add_space(self, place: Space, at: Path, scope: Scope) -> None:
        key = space_key(place)
        if key in self._world_to_space or (not isinstance(place, SpaceRef) and place != "camera"):
            return
        if not isinstance(place, SpaceRef):
            self._world_to_space[key] = camera_matrix(self.shot.camera)
            return
        name = reference_name(place)
        kind = "locator" if isinstance(place, LocatorRef) else "object"
        known = [each.name for each in (self.shot.locators if kind == "locator" else self.shot.objects)]
        if name in known:
            matrix = self._places.locator(name) if kind == "locator" else self._places.object(name)
            self._world_to_space[key] = np.linalg.inv(matrix)[:3].astype(np.float32)
        elif scope.trail:
            # A signal belongs to every shot of the project; a shot without its locator measures from the world's origin,
            # and advice tells so.
            self._world_to_space[key] = np.eye(4, dtype=np.float32)[:3]
        else:
            reason = f"there is no {kind} “{name}”"
            raise DocumentError([Problem(pointer(*at, "params"), reason, nearest(name, known))])

    def _constant(self, value: float | tuple[float, ...]) -> int:
        return self._add(Constant.model_validate({"value": value}), None, {})

    def _add(
        self,
        op: Op,
        incoming: int | None,
        inputs: Mapping[str, int],
        warped: Mapping[str, int] | None = None,
        at: Path = (),
    ) -> int:
        digest = hashlib.blake2b(digest_size=16)
        # What leads to an input counts by its own node, not by how it is written down: names, ids and the order of members are nothing of it.
        digest.update(f"{type(op).__name__}{op.model_dump_json(exclude=set(inputs))}".encode())
        for place in op.spaces():
            if space_key(place) in self._world_to_space:
                digest.update(self._world_to_space[space_key(place)].tobytes())
        if op.time_dependent():
            digest.update(f"@{self.shot.time.frame:g}".encode())
        noticed = {base: index for base, index in (warped or {}).items() if base in op.required_data()}
        taken = ([] if incoming is None else [("", incoming)]) + sorted(inputs.items()) + sorted(noticed.items())
        for name, index in taken:
            digest.update(f"|{name}={self._nodes[index].key}".encode())
        key = digest.hexdigest()
        if key not in self._by_key:
            widths = {name: self._nodes[index].width for name, index in inputs.items()}
            if isinstance(op, LayerBlend):
                widths.pop("mask")
            try:
                width = op.result_width(0 if incoming is None else self._nodes[incoming].width, widths)
            except WrongParameterError as error:
                where = pointer(*at, "params", error.parameter)
                raise DocumentError([Problem(where, error.reason, error.hint, error.character)]) from None
            self._nodes.append(Node(key, op, incoming, dict(inputs), noticed, width))
            self._by_key[key] = len(self._nodes) - 1
        return self._by_key[key]
