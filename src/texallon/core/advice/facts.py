"""What advice is given on: every recipe of a shot with its ops, and what its steps' values are where the camera looks."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from texallon.core.advice.look_around import Around, look_around
from texallon.core.advice.look_at_bodies import Bodies, look_at_bodies
from texallon.core.advice.look_at_volumes import Filled, look_at_volumes
from texallon.core.derived import checkpoint
from texallon.core.document.carried_looks import seen_through
from texallon.core.document.ids import by_id
from texallon.core.document.look import Layer
from texallon.core.document.problem import DocumentError, Path, pointer
from texallon.core.document.recipe import Recipe
from texallon.core.document.recipe_address import recipe_label
from texallon.core.document.resolved import ResolvedShot
from texallon.core.document.shot import Shot
from texallon.core.kernel import Array
from texallon.core.ops.image import Image
from texallon.core.ops.op import DomainWarp, Op
from texallon.core.ops.picture_content import Content, content_of
from texallon.core.render.camera.gbuffer import BatchOfPoints, GBuffer
from texallon.core.render.scene.scene import Scene, looks_of
from texallon.core.signal.planner import Planner, Scope
from texallon.core.signal.statistics import Statistics, statistics

ENOUGH = 60
"""Points below which nothing is said about values: too few to speak for the picture."""


@dataclass(frozen=True)
class StepFacts:
    """A step that is on. `incoming` and `values` are missing where nothing of the look is seen, or for bent space.

    `changes` tells whether what comes out differs from what came in (for a space step: whether it bends anything).
    """

    number: int
    op: Op
    incoming: Statistics | None
    values: Statistics | None
    changes: bool


@dataclass(frozen=True)
class RecipeFacts:
    """A recipe, by its address, by what people call that and by its path in the document. `role` is `mask`, `signal` or a channel's name.

    `leans` says, for a mask, where it lies compared with the whole look, in standard deviations: `up`, `rim` (turned away
    from the eye), `outside` (on convex edges). `change_per_second` is a share of the values' own range.
    """

    look: str
    layer: str
    address: str
    where: str
    path: Path
    role: str
    recipe: Recipe
    steps: tuple[StepFacts, ...]
    leans: Mapping[str, float]
    change_per_second: float

    def at(self, step: int, *more: str | int) -> str:
        """The JSON Pointer to a step, or to something in it.

        Parameters
        ----------
        step : int
            The step's number.
        *more : object
            Where it stands in the document, or more of the same.
        """
        return pointer(*self.path, "steps", step, *more)


@dataclass(frozen=True)
class Facts:
    """All recipes; the attributes that the shown objects of each look carry; the finest sample of each look, in metres; and the
    scene around."""

    shot: Shot
    recipes: tuple[RecipeFacts, ...]
    attributes: Mapping[str, frozenset[str]]
    footprints: Mapping[str, float]
    around: Around
    pictures: Mapping[str, Content]
    """What the pictures that recipes lay on hold, by file."""
    carried_by: Mapping[str, Mapping[str, frozenset[str]]]
    """By look, the shown objects that wear it themselves, and the attributes of each."""
    edges: Mapping[str, float]
    """By look, the length in its own space of the edges of the coarsest mesh that wears it, metres: their median."""
    bodies: Bodies
    """How bodies meet."""
    volumes: tuple[Filled, ...] = ()
    """What is filled."""

    def effect(self, look: str, role: str, otherwise: float) -> float:
        """The mean of a channel over the layers of a look that set it, the topmost first asked; else a given value.

        Parameters
        ----------
        look : str
            The look's name, or the look itself.
        role : str
            `mask`, `signal` or a channel's name.
        otherwise : float
            Where no layer says anything.
        """
        found = [each for each in self.recipes if each.look == look and each.role == role and each.steps]
        known = [each.steps[-1].values for each in found if each.steps[-1].values and each.steps[-1].values.count]
        return known[-1].mean if known else otherwise

    def own_effect(self, recipe: RecipeFacts, role: str, otherwise: float) -> float:
        """The same of the recipe's own layer, where it sets the channel; else of the look.

        Parameters
        ----------
        recipe : RecipeFacts
            With what is known of it.
        role : str
            `mask`, `signal` or a channel's name.
        otherwise : float
            Where no layer says anything.
        """
        for each in self.recipes:
            if each.look == recipe.look and each.layer == recipe.layer and each.role == role and each.steps:
                values = each.steps[-1].values
                return values.mean if values and values.count else otherwise
        return self.effect(recipe.look, role, otherwise)

    def of(self, look: str, role: str, layers: Sequence[Layer]) -> list[RecipeFacts]:
        """The recipes of one channel in some layers of a look.

        Parameters
        ----------
        look : str
            The look's name, or the look itself.
        role : str
            `mask`, `signal` or a channel's name.
        layers : sequence of Layer
            Of the look.
        """
        names = {layer.name for layer in layers}
        return [each for each in self.recipes if each.look == look and each.role == role and each.layer in names]

    @property
    def locators(self) -> list[str]:
        return [locator.name for locator in self.shot.locators]

    @property
    def objects(self) -> list[str]:
        return [item.name for item in self.shot.objects]


class RecipePlace(NamedTuple):
    """A recipe and where it stands: its address, what people call that, its path by positions, and what it is for."""

    look: str
    layer: str
    address: str
    where: str
    path: Path
    role: str
    recipe: Recipe


class _Planners(NamedTuple):
    """Of the shot at its time, and at the next frame."""

    now: Planner
    later: Planner


def gather(shot: ResolvedShot, later: ResolvedShot, points: GBuffer) -> Facts:
    """Facts about a shot that has been checked.

    Shared signals that nothing in the shot uses are left out; the others are looked at as where they are first used.

    Parameters
    ----------
    shot, later : ResolvedShot
        The shot at a frame, and at the next.
    points : GBuffer
        Of a small picture whose footprints are the final one's.

    Raises
    ------
    Interrupted
        When the facts are no longer wanted.
    """
    recipes: list[RecipeFacts] = []
    footprints: dict[str, float] = {}
    planners = _Planners(Planner(shot), Planner(later))
    planner, scene, check = planners.now, points.scene, checkpoint()
    first_look: dict[str, int] = {}
    for index, look in enumerate(shot.looks):
        on = next((each for each in seen_through(shot.looks, index) if len(points.batch(each).pixels)), index)
        batch = points.batch(on)
        if len(batch.pixels):
            footprints[look.name] = float(np.percentile(batch.point("footprint"), 2))
        for each in recipes_of(shot, index):
            check()
            recipes.append(_facts(planners, Scope(), batch, each))
            for name in planner.scopes.keys() - first_look.keys():
                first_look[name] = on
    for number, signal in enumerate(shot.signals):
        if signal.name not in first_look:
            continue
        check()
        index = first_look[signal.name]
        at: Path = ("signals", number, "recipe")
        own = _standing(shot, shot.looks[index].name, "", at, "signal", signal.recipe)
        recipes.append(_facts(planners, planner.scopes[signal.name], points.batch(index), own))
    attributes: dict[str, set[str]] = {look.name: set() for look in shot.looks}
    by_object: dict[str, dict[str, frozenset[str]]] = {look.name: {} for look in shot.looks}
    for stands in scene.instances:
        item, there = stands.item, scene.distinct[stands.mesh_number].attributes.keys() | stands.attributes.keys()
        there = there | set(stands.remembered)
        for name in looks_of(item):
            attributes[name] |= there
            by_object[name][item.name] = by_object[name].get(item.name, frozenset()) | there
    for index, look in enumerate(shot.looks):
        for through in seen_through(shot.looks, index):
            attributes[look.name] |= attributes[shot.looks[through].name]
    around = look_around(shot, scene, points.view)
    carried = {name: frozenset(each) for name, each in attributes.items()}
    return Facts(
        shot, tuple(recipes), carried, footprints, around, _contents(scene, recipes), by_object, _edges(shot, scene),
        look_at_bodies(scene), look_at_volumes(points, shot),
    )  # fmt: skip


def _edges(shot: Shot, scene: Scene) -> dict[str, float]:
    """The length of edges of each look's coarsest mesh, worn or carried; from some of its faces."""
    edges: dict[str, float] = {}
    for each in scene.instances:
        for name in looks_of(each.item):
            edges[name] = max(edges.get(name, 0.0), scene.distinct[each.mesh_number].points_apart)
    for index, look in enumerate(shot.looks):
        through = [edges.get(shot.looks[each].name, 0.0) for each in seen_through(shot.looks, index)]
        edges[look.name] = max([edges.get(look.name, 0.0), *through])
    return edges


def _contents(scene: Scene, recipes: Sequence[RecipeFacts]) -> dict[str, Content]:
    """What the pictures in recipes hold."""
    files = {step.op.file.file: step.op.file for each in recipes for step in each.steps if isinstance(step.op, Image)}
    return {name: content_of(scene.data.pyramid(ref, True)) for name, ref in files.items()}


def recipes_of(shot: Shot, index: int) -> Iterator[RecipePlace]:
    """The recipes of one of a shot's looks.

    Parameters
    ----------
    shot : Shot
        The document.
    index : int
        Position of the look.
    """
    look = shot.looks[index]
    for number, layer in enumerate(look.layers):
        if not layer.on:
            continue
        at: Path = ("looks", index, "layers", number)
        if layer.where is not None:
            yield _standing(shot, look.name, layer.name, (*at, "where"), "mask", layer.where)
        for name, entry in layer.channels.items():
            yield _standing(shot, look.name, layer.name, (*at, "channels", name, "recipe"), name, entry.recipe)


def _standing(shot: Shot, look: str, layer: str, path: Path, role: str, recipe: Recipe) -> RecipePlace:
    return RecipePlace(look, layer, by_id(shot, path), recipe_label(shot, path), path, role, recipe)


def _facts(planners: _Planners, scope: Scope, batch: BatchOfPoints, at: RecipePlace) -> RecipeFacts:
    planner, recipe = planners.now, at.recipe
    nodes = planner.recipe(recipe, at.path, scope)
    ops = [planner.op(step, at.path, scope) for step in recipe.steps]
    if len(batch.pixels) < ENOUGH:
        steps = tuple(
            StepFacts(number, op, None, None, True)
            for number, (op, step) in enumerate(zip(ops, recipe.steps, strict=True))
            if step.on
        )
        return RecipeFacts(at.look, at.layer, at.address, at.where, at.path, at.role, recipe, steps, {}, 0.0)
    plan = planner.plan_of({str(number): node for number, node in enumerate(nodes)})
    values = batch.values(plan)
    found: list[StepFacts] = []
    before: Array | None = None
    known: Statistics | None = None
    source = next(op for op in ops if op.kind == "source")
    for number, (op, step) in enumerate(zip(ops, recipe.steps, strict=True)):
        value = values[str(number)]
        if isinstance(op, DomainWarp):
            if step.on:
                changes = op.warps() in source.required_data() and _warps(batch, op.warps(), value)
                found.append(StepFacts(number, op, None, None, changes))
            continue
        own = statistics(value)
        if step.on:
            found.append(StepFacts(number, op, known, own, before is None or _differ(before, value)))
        before, known = value, own
    assert before is not None
    leans = _leans(batch, before[0]) if at.role == "mask" else {}
    changing = any(node.op.time_dependent() for node in plan.nodes)
    change = _change(planners, batch, at, before) if changing else 0.0
    return RecipeFacts(at.look, at.layer, at.address, at.where, at.path, at.role, recipe, tuple(found), leans, change)


def _differ(before: Array, after: Array) -> bool:
    if before.shape != after.shape:
        return True
    reach = float(np.nanmax(np.abs(np.nan_to_num(before)), initial=0.0))
    difference: Any = np.abs(np.nan_to_num(after - before))
    return bool(difference.max(initial=0.0) > 1e-6 * max(reach, 1e-6) or (np.isnan(before) != np.isnan(after)).any())


def _warps(batch: BatchOfPoints, base: str, warped: Array) -> bool:
    plain = batch.point(base)
    return bool(np.abs(np.nan_to_num(warped[: plain.shape[0]] - plain)).max(initial=0.0) > 1e-6)


def _leans(batch: BatchOfPoints, mask: Array) -> dict[str, float]:
    weight = np.clip(np.nan_to_num(mask), 0, 1).astype(np.float64)
    total = weight.sum()
    if total < 1e-3 * len(weight) or weight.min() > 0.98:
        return {}
    normal, view = batch.point("normal"), batch.point("view")
    turned = 1 - np.abs((normal * view).sum(axis=0))
    measures = {"up": normal[1], "rim": turned, "outside": batch.point("convexity")[0]}
    result = {}
    for name, measure in measures.items():
        spread = float(measure.std())
        mean = float((measure * weight).sum() / total)
        result[name] = (mean - float(measure.mean())) / spread if spread > 1e-6 else 0.0
    return result


def _change(planners: _Planners, batch: BatchOfPoints, at: RecipePlace, now: Array) -> float:
    """How far values move within a second, as a share of their own range, judged from one frame to the next."""
    step = planners.later.shot.time.seconds - planners.now.shot.time.seconds
    try:
        plan = planners.later.plan_of({"value": planners.later.recipe(at.recipe, at.path)[-1]})
        later = batch.values(plan)["value"]
    except DocumentError:
        return 0.0
    low, high = (float(x) for x in np.percentile(np.nan_to_num(now), (2, 98)))
    if high - low < 1e-6:
        return 0.0
    return float(np.abs(np.nan_to_num(later - now)).mean()) / step / (high - low)
