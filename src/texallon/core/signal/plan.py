"""A plan: the steps to run, in an order in which each follows what it takes."""

from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from texallon.core.derived import content_key
from texallon.core.kernel import Array
from texallon.core.ops.op import Op, space_key
from texallon.core.ops.points import NO_FILES, Matrix, OpFiles, Points


@dataclass(frozen=True)
class Node:
    """One step to run: `incoming`, `inputs` and `warped` are positions of nodes that stand before it.

    `warped` maps point data to the nodes of space steps that changed it for this step.
    """

    key: str
    op: Op
    incoming: int | None
    inputs: Mapping[str, int]
    warped: Mapping[str, int]
    width: int

    @property
    def takes(self) -> list[int]:
        """All nodes that must have run before."""
        return [*([] if self.incoming is None else [self.incoming]), *self.inputs.values(), *self.warped.values()]


@dataclass(frozen=True)
class Plan:
    """Nodes in an order in which each follows what it takes, and which of them were asked for."""

    nodes: tuple[Node, ...]
    outputs: Mapping[str, int]
    required_data: frozenset[str]
    world_to_space: Mapping[str, Matrix]
    frame: float = 1.0
    time: float = 0.0

    def points(self, count: int, data: Mapping[str, Array], files: OpFiles = NO_FILES) -> Points:
        """Points with the data that the plan needs, at the plan's frame.

        Parameters
        ----------
        count : int
            Number of points, n.
        data : mapping
            Parsed JSON.
        files : OpFiles, optional
            Finds a picture.
        """
        return Points(count, data, self.world_to_space, files, self.frame, self.time)

    @cached_property
    def content_key(self) -> str:
        """The same for plans whose outputs have the same names and values at any point."""
        return content_key(("plan", {name: self.nodes[index].key for name, index in self.outputs.items()}))

    @cached_property
    def order(self) -> Sequence[int]:
        """The nodes that must run for the outputs, in order."""
        return needed(self.nodes, self.outputs.values())

    def key(self, output: str) -> str:
        """The content hash of an output's value.

        Parameters
        ----------
        output : str
            By its name.
        """
        return self.nodes[self.outputs[output]].key

    def width(self, output: str) -> int:
        """1 for a number, 3 for a colour or vector.

        Parameters
        ----------
        output : str
            By its name.
        """
        return self.nodes[self.outputs[output]].width

    def subplan(self, outputs: Iterable[str]) -> "Plan":
        """The same for some of the outputs only.

        Parameters
        ----------
        outputs : sequence of str
            By their names.
        """
        return subset(
            self.nodes, {name: self.outputs[name] for name in outputs}, self.world_to_space, self.frame, self.time
        )

    def uniform(self) -> list[str]:
        """Outputs that are the same at all points: nothing that leads to them reads anything of a point."""
        same: list[bool] = []
        for node in self.nodes:
            same.append(not node.op.required_data() and all(same[index] for index in node.takes))
        return [name for name, index in self.outputs.items() if same[index]]


def needed(nodes: Sequence[Node], wanted: Iterable[int], have: Container[int] = ()) -> list[int]:
    """The nodes that must run for some wanted ones, given those whose values are known, in order.

    Parameters
    ----------
    nodes : sequence of Node
        In order.
    wanted : sequence of int
        Positions of nodes, or the same by name.
    have : Container[int], optional
        Nodes whose values are known.
    """
    found: set[int] = set()
    waiting = list(wanted)
    while waiting:
        index = waiting.pop()
        if index not in found and index not in have:
            found.add(index)
            waiting += nodes[index].takes
    return sorted(found)


def subset(
    nodes: Sequence[Node], wanted: Mapping[str, int], world_to_space: Mapping[str, Matrix], frame: float, time: float
) -> Plan:
    """A plan of those of some nodes that the wanted ones need.

    Parameters
    ----------
    nodes : sequence of Node
        In order.
    wanted : mapping
        Positions of nodes, or the same by name.
    world_to_space : mapping
        By space, `(3, 4)`.
    frame : float
        Of the shot.
    time : float
        Seconds.
    """
    order = needed(nodes, wanted.values())
    moved = {old: new for new, old in enumerate(order)}
    kept = tuple(
        replace(
            node,
            incoming=None if node.incoming is None else moved[node.incoming],
            inputs={name: moved[index] for name, index in node.inputs.items()},
            warped={base: moved[index] for base, index in node.warped.items()},
        )
        for node in (nodes[index] for index in order)
    )
    required_data: set[str] = set()
    used: set[str] = set()
    for node in kept:
        required_data |= node.op.required_data()
        used |= {space_key(place) for place in node.op.spaces()}
    placed = {name: matrix for name, matrix in world_to_space.items() if name in used}
    return Plan(
        kept, {name: moved[index] for name, index in wanted.items()}, frozenset(required_data), placed, frame, time
    )
