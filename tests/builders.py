"""Documents, meshes and recipes that tests are made from."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from texallon.core.document import FileRef, read_shot
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.ops.points import NO_FILES, OpFiles
from texallon.core.ops.pyramid import Pyramid, make_pyramid
from texallon.core.ops.voxel_grid import VoxelGrid
from texallon.core.render.camera.gbuffer import GBuffer, Sight
from texallon.core.render.camera.view import make_view
from texallon.core.render.graph import FrameGraph
from texallon.core.render.light.lights import Lights, lit_lights, make_lights
from texallon.core.render.scene.scene import Scene
from texallon.core.render.surface.materials import Materials
from texallon.core.signal.plan import Plan
from texallon.core.signal.planner import Planner
from texallon.core.signal.run import evaluate, fill_missing


def step(op: str, **params: Any) -> dict[str, Any]:
    return {"op": op, "params": params}


def recipe(*steps: dict[str, Any]) -> dict[str, Any]:
    return {"steps": list(steps)}


def value(number: Any, blend: str = "replace") -> dict[str, Any]:
    return {"recipe": recipe(step("constant", value=number)), "blend": blend}


def layer(name: str, where: dict[str, Any] | None = None, **channels: Any) -> dict[str, Any]:
    return {"name": name, "where": where, "channels": channels}


def look(name: str, *layers: dict[str, Any]) -> dict[str, Any]:
    return {"name": name, "layers": list(layers) or [layer("base")]}


def document(**members: Any) -> dict[str, Any]:
    """A small valid shot; members replace its own."""
    return {"schema": 1, "name": "T010", "looks": [look("plain")], **members}


def shot(**members: Any) -> ResolvedShot:
    """A small shot at its first frame."""
    return resolve(read_shot(document(**members)))


def plan_of(*steps: dict[str, Any], frame: float | None = None, **members: Any) -> Plan:
    """The plan of one recipe, its output called `value`."""
    where = recipe(*steps)
    made = shot(looks=[look("plain", layer("base", base_color={"recipe": where}))], **members)
    planner = Planner(resolve(made, frame))
    planner.want("value", planner.recipe(made.looks[0].layers[0].channels["base_color"].recipe, ("here",))[-1])
    return planner.plan()


def run(
    *steps: dict[str, Any],
    data: Mapping[str, Any],
    chunk: int = 8192,
    files: OpFiles = NO_FILES,
    frame: float | None = None,
    **members: Any,
) -> np.ndarray:
    """A recipe's values `(width, n)`; `data` holds arrays `(width, n)` by name."""
    plan = plan_of(*steps, frame=frame, **members)
    arrays = {name: np.ascontiguousarray(np.atleast_2d(values), np.float32) for name, values in data.items()}
    count = next(iter(arrays.values())).shape[1]
    points = plan.points(count, fill_missing(plan.required_data, arrays, count), files)
    return evaluate(plan, points, chunk=chunk)["value"]


def apply(*steps: dict[str, Any], to: Any, **members: Any) -> np.ndarray:
    """Steps applied to given numbers, shape `(n,)` or `(3, n)`."""
    return run(step("attribute", attribute="x"), *steps, data={"attribute:x": to}, **members).squeeze()


def square(size: float = 1.0, height: float = 0.0) -> Mesh:
    """A level square centred over the origin, its normal up."""
    h = size / 2
    corners = [[-h, height, -h], [h, height, -h], [h, height, h], [-h, height, h]]
    return make_mesh(corners, [[0, 2, 1], [0, 3, 2]], [[0, 1, 0]] * 4, [[0, 0], [1, 0], [1, 1], [0, 1]])


class MadeFiles:
    """Files that tests make up: meshes and pictures by name."""

    def __init__(self, **made: Any) -> None:
        self.files = made

    def key(self, ref: FileRef) -> str:
        return f"{ref.file} {id(self.files[ref.file])}" if ref.file in self.files else ref.file

    def mesh(self, ref: FileRef) -> Mesh:
        return self.files[ref.file]

    def mesh_size(self, ref: FileRef) -> MeshSize:
        mesh = self.files[ref.file]
        return MeshSize(len(mesh.vertices), len(mesh.faces))

    def image(self, ref: FileRef) -> np.ndarray:
        return self.files[ref.file]

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        return make_pyramid(self.files[ref.file])

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        return self.files[ref.file][grid]

    def made(self, wanted: Any) -> Any:
        return NO_FILES.made(wanted)


def ball(radius: float = 1.0, rings: int = 32, centre: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> Mesh:
    """A sphere of latitudes and longitudes with smooth normals."""
    down, around = np.meshgrid(
        np.linspace(0, np.pi, rings + 1), np.linspace(0, 2 * np.pi, 2 * rings + 1), indexing="ij"
    )
    unit = np.stack([np.sin(down) * np.cos(around), np.cos(down), np.sin(down) * np.sin(around)], axis=2).reshape(-1, 3)
    corner = (np.arange(rings)[:, None] * (2 * rings + 1) + np.arange(2 * rings)).ravel()
    below = corner + 2 * rings + 1
    faces = np.concatenate([np.stack([corner, corner + 1, below], 1), np.stack([corner + 1, below + 1, below], 1)])
    area = np.linalg.norm(
        np.cross(unit[faces[:, 1]] - unit[faces[:, 0]], unit[faces[:, 2]] - unit[faces[:, 0]]), axis=1
    )
    return make_mesh(unit * radius + np.array(centre), faces[area > 1e-9], unit)


def box(width: float, height: float, depth: float) -> Mesh:
    """A closed box about the origin, its normals outward."""
    corners, faces, normals = [], [], []
    for axis in range(3):
        for side in (-1.0, 1.0):
            normal = np.zeros(3)
            normal[axis] = side
            u, v = np.roll(np.eye(3), axis, axis=1)[1], np.roll(np.eye(3), axis, axis=1)[2]
            first = len(corners)
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                corners.append((normal + a * u + b * v) * np.array([width, height, depth]) / 2)
                normals.append(normal)
            faces += [[first, first + 1, first + 2], [first, first + 2, first + 3]]
    return make_mesh(corners, faces, normals)


def materials_of(made: ResolvedShot) -> Materials:
    """A shot's looks at work; no files are read."""
    return FrameGraph(made, MadeFiles()).materials


def lights_of(made: ResolvedShot, files: MadeFiles, radius: float) -> Lights:
    """A shot's lights, for a scene of some radius in metres."""
    graph = FrameGraph(made, files)
    table = graph.store.value(graph.environment_value)
    return make_lights(
        table, made.environment, lit_lights(made.lights), graph.groups, made.backdrop is not None, radius
    )


def gbuffer_of(
    scene: Scene, made: ResolvedShot, width: int, height: int, clear: frozenset[int] = frozenset()
) -> GBuffer:
    """What a shot's camera sees of a scene, as points."""
    return GBuffer(scene, Sight(make_view(made.camera, width, height).sharp, 0, clear=clear))


class KeptValues(dict[str, np.ndarray]):
    """Values of nodes as `evaluate` keeps them."""

    def keeps(self, key: str) -> bool:
        return True

    def put(self, key: str, value: np.ndarray) -> None:
        self[key] = value


def flat_net(across: int, jitter: float, seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """A level square of 1 m as triangles, its inner points moved by chance by some part of a cell."""
    x, z = np.meshgrid(np.linspace(0, 1, across), np.linspace(0, 1, across))
    places = np.stack([x.ravel(), np.zeros(across * across), z.ravel()], axis=1)
    inner = ((x > 0) & (x < 1) & (z > 0) & (z < 1)).ravel()
    moved = np.random.default_rng(seed).normal(size=(across * across, 2)) * jitter / across
    places[inner[:, None] & [True, False, True]] += moved[inner].ravel()
    at = np.arange(across * across).reshape(across, across)
    a, b, c, d = at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:]
    return places, np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
