"""Running every kernel once, so that compiled code lies on disk before anyone waits for it."""

from collections.abc import Callable
from typing import Any

import numpy as np
from pydantic import ValidationError

from texallon.core.derived import Derived
from texallon.core.document import FileRef, read_shot
from texallon.core.document.array import SurfaceArray
from texallon.core.document.bloom import Bloom
from texallon.core.document.remembered import Growth, Springs
from texallon.core.document.resolved import resolve
from texallon.core.document.simulation import Rain
from texallon.core.geometry.bake_geometry import BakeGeometry
from texallon.core.geometry.closest import PlacedSurface
from texallon.core.geometry.copies import surface_copies
from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import Mesh, make_mesh, make_points
from texallon.core.geometry.nearest_ball import PlacedBalls
from texallon.core.geometry.particles import particles_of
from texallon.core.geometry.scatter import scattered
from texallon.core.geometry.simulations.rain import make_rain
from texallon.core.geometry.skin import skinned
from texallon.core.geometry.smooth_normals import smooth_normals
from texallon.core.motion.growth import grown, growth_at
from texallon.core.motion.point_graph import surface_graph
from texallon.core.motion.springs import gather_springs
from texallon.core.motion.touches import Span, gather_touches
from texallon.core.ops.points import NO_FILES, Points
from texallon.core.ops.pyramid import Pyramid, make_pyramid
from texallon.core.ops.registry import ops
from texallon.core.ops.voxel_grid import VoxelGrid, make_voxel_grid
from texallon.core.points.occlusion import Occlusion
from texallon.core.render.film.bloom import bloomed
from texallon.core.render.film.display import view_bytes
from texallon.core.render.film.film import Film
from texallon.core.render.film.light_mix import mix_light_groups
from texallon.core.render.graph import FrameGraph
from texallon.core.shade.albedo import albedo_table
from texallon.core.signal.look_plan import plan_look
from texallon.core.signal.run import fill_missing


class _Tiny:
    """A floor and a sheet of water, for files."""

    def __init__(self) -> None:
        corners = np.array([[-9, 0, -9], [9, 0, -9], [9, 0, 9], [-9, 0, 9]])
        uv = np.zeros((4, 2))
        paint = {"paint": np.ones(4)}
        self._square = make_mesh(corners, [[0, 2, 1], [0, 3, 2]], None, uv, paint)

    def mesh(self, ref: FileRef) -> Mesh:
        return self._square

    def mesh_size(self, ref: FileRef) -> MeshSize:
        return MeshSize(4, 2)

    def key(self, ref: FileRef) -> str:
        return ref.file

    def image(self, ref: FileRef) -> np.ndarray:
        raise FileNotFoundError(ref.file)

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        return make_pyramid(np.zeros((2, 2, 3), np.float32))

    def made(self, wanted: Derived[Any]) -> Any:
        return NO_FILES.made(wanted)

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        return make_voxel_grid(np.zeros((2, 2, 2, 1), np.float32), np.eye(4)[:3])


def tiny_shot() -> dict[str, object]:
    """A document that uses every kind of signal and every branch of the renderer that has a kernel of its own."""
    here = {"locator": "here"}

    def look(name: str, channels: dict[str, object], where: object) -> dict[str, object]:
        return {"name": name, "layers": [{"name": "a", "where": where, "channels": channels}]}

    run = [
        {"op": "noise", "params": {"space": "object"}},
        {"op": "remap", "params": {"from_end": 0.5}},
        {"op": "threshold"},
        {"op": "invert"},
        {"op": "ramp"},
        {"op": "add", "params": {"by": {"signal": "up"}}},
        {"op": "mix", "params": {"amount": 0.2}},
        {"op": "multiply", "params": {"by": {"signal": "paint"}}},
    ]
    water = {"op": "constant", "params": {"value": 1.0}}
    lit = {"recipe": {"steps": [water]}}
    return {
        "schema": 1,
        "name": "warm up",
        "camera": {"position": [0, 2, 3], "target": [0, 0, 0]},
        "lights": [{"name": "light", "position": [0, 3, 0], "target": [0, 0, 0]}],
        "locators": [{"name": "here"}],
        "signals": [
            {"name": "up", "recipe": {"steps": [{"op": "height", "params": {"origin": here}}]}},
            {"name": "paint", "recipe": {"steps": [{"op": "attribute", "params": {"attribute": "paint"}}]}},
        ],
        "objects": [
            {"name": "floor", "geometry": {"file": "floor.ply"}, "look": "stone"},
            {"name": "water", "geometry": {"file": "floor.ply"}, "look": "water", "position": [0, 0.5, 0]},
            {"name": "cloud", "geometry": {"shape": "torus"}, "look": "cloud", "position": [0, 0.6, 0]},
        ],
        "looks": [
            look("stone", {"base_weight": {"recipe": {"steps": run}}}, {"steps": run}),
            look("water", {"transmission_weight": {"recipe": {"steps": [water]}}}, None),
            {
                **look("cloud", {"volume_emission": {"recipe": {"steps": run}}, "point_emission": lit}, None),
                "domain": "volume",
                "points": {},
            },
        ],
    }


NEEDED = {"image": {"file": {"file": "any.png"}}, "voxels": {"file": {"file": "any.npy"}}}
"""Parameters without which an op with a kernel of its own can't be made."""


def run_every_op() -> None:
    """Each op once with its defaults; those that can't do without a parameter have no kernel of their own."""
    count = 4
    for kind in ops().values():
        try:
            op = kind.model_validate(NEEDED.get(kind.name, {}))
        except ValidationError:
            continue
        here = {"position": np.zeros((3, count), np.float32)}
        camera = {"camera": np.eye(4, dtype=np.float32)[:3]}
        points = Points(count, fill_missing(op.required_data(), here, count), camera, _Tiny())
        incoming = np.zeros((0 if op.kind == "source" else 1, count), np.float32)
        inputs = {name: np.zeros((1, count), np.float32) for name in op.inputs()}
        width = op.result_width(incoming.shape[0], dict.fromkeys(inputs, 1))
        with np.errstate(all="ignore"):
            op.run(points, incoming, inputs, np.empty((width, count), np.float32))


def warm_up(progress: Callable[[int, int, str], None] = lambda done, total, what: None) -> None:
    """Compile, or load from disk, every kernel that a picture or a mask can need."""
    stages: list[tuple[str, Callable[[], object]]] = []
    shot = resolve(read_shot(tiny_shot()))
    files = _Tiny()
    state: dict[str, object] = {}

    def prepare() -> None:
        ops()
        albedo_table()

    def seen() -> None:
        graph = FrameGraph(shot, files)
        state["context"] = graph.context(32, 18)
        points = graph.gbuffer(32, 18)
        for index, look in enumerate(shot.looks):
            points.batch(index).values(plan_look(shot, look))
            points.batch(index).point("curvature_by_rays:0.1")

    def shape() -> None:
        mesh = files.mesh(FileRef(file="floor"))
        Occlusion("1,180,outwards").bake(BakeGeometry(mesh))
        smooth_normals(mesh.vertices, mesh.faces)
        here = np.eye(4, dtype=np.float32)[:3]
        PlacedSurface(mesh, here).distance(np.ones((3, 4), np.float32), 9.0)
        array = SurfaceArray(along="surface", object="g")
        surface_copies(mesh, scattered(mesh, here[:, :3], 9.0, 4, 1), here, array)
        balls = particles_of(make_points(mesh.vertices), 0.5, "radius", 1.0)
        skinned(balls, 0.1, 0.4)
        measured = PlacedBalls(balls.positions, balls.radii)
        measured.distance(np.ones((3, 4), np.float32), 9.0)
        measured.by_tree(np.ones((3, 4), np.float32), 9.0)

    def remembered() -> None:
        """What remembers, and what stands in for a simulation."""
        growth = Growth(kind="growth", name="a", signal="a", ragged="a")
        springs = Springs(kind="springs", name="a", signal="a", spread=1.0)
        mesh = files.mesh(FileRef(file="floor"))
        points = surface_graph(mesh, np.eye(4, dtype=np.float32)[:3])
        values = np.ones(len(points.places))
        span = Span(1, 1, 2, 24.0)
        touched = gather_touches(None, span, growth, lambda frame: values, None)
        covered = grown(points, (touched,), growth, values.astype(np.float32)[points.one], 24.0)
        growth_at(points, covered, (), growth, 1.0, 24.0)
        gather_springs(None, span, springs, points, lambda frame: values * frame)
        make_rain(Rain(shape="rain"))

    def picture() -> None:
        film = Film(32, 18)
        film.add_sample(state["context"])  # type: ignore[arg-type]
        state["film"] = film

    def show() -> None:
        film = state["film"]
        assert isinstance(film, Film)
        picture = mix_light_groups(film.denoised()[None], np.ones((1, 3), np.float32))
        view_bytes(bloomed(picture + np.float32(1), Bloom(intensity=0.1), rough=True), 0.0)

    stages = [
        ("tables", prepare),
        ("ops", run_every_op),
        ("signals", seen),
        ("shape", shape),
        ("what remembers", remembered),
        ("light", picture),
        ("display", show),
    ]
    for number, (name, stage) in enumerate(stages):
        progress(number, len(stages), name)
        stage()
    progress(len(stages), len(stages), "done")


if __name__ == "__main__":
    warm_up()
