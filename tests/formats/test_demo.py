"""The demo: its bodies are closed where light goes into them, its documents are sound, and advice has nothing grave to say."""

import json
from pathlib import Path

import numpy as np
import pytest
import trimesh

from texallon.cli import load_shot
from texallon.core.advice.look_over import look_over
from texallon.core.geometry.mesh import Mesh
from texallon.core.signal.check_recipes import check_shot
from texallon.demo.packet import flower_label, night_label, seed_packet
from texallon.demo.pods import PLACES, glass_pods, spores, within
from texallon.demo.write import MESHES, SHOTS
from texallon.formats.shot_files import ShotFiles

NAMES = [make.__name__.upper() for make in SHOTS]


def solid(mesh: Mesh) -> trimesh.Trimesh:
    """The mesh with points that coincide joined, as a ray meets it."""
    joined = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    joined.merge_vertices(merge_tex=True, merge_norm=True, digits_vertex=5)
    joined.update_faces(joined.nondegenerate_faces())
    return joined


def bodies(mesh: Mesh) -> list[np.ndarray]:
    """The points of each body of a mesh whose bodies do not touch."""
    joined = solid(mesh)
    number = trimesh.graph.connected_component_labels(joined.edges, node_count=len(joined.vertices))
    used = np.unique(joined.faces)
    return [joined.vertices[used[number[used] == each]] for each in np.unique(number[used])]


def test_pods_are_closed_bodies_with_their_faces_outward() -> None:
    pods = solid(glass_pods())
    assert pods.is_watertight and len(bodies(glass_pods())) == len(PLACES)
    assert pods.volume > 0, "wound so that the outside is out"
    mesh = glass_pods()
    a, b, c = (mesh.vertices[mesh.faces[:, corner]] for corner in range(3))
    across = np.cross(b - a, c - a)
    wide = np.linalg.norm(across, axis=1) > 1e-9
    assert ((across * mesh.normals[mesh.faces[:, 0]]).sum(axis=1)[wide] > 0).mean() > 0.99


def test_spores_lie_within_their_pods_and_apart() -> None:
    mesh = spores()
    assert solid(mesh).is_watertight
    parts = bodies(mesh)
    assert len(parts) > 80
    for part in parts:
        assert any(within((part - [x, y, z]) / size).all() for x, y, z, size in PLACES)
    centres = np.array([(part.min(axis=0) + part.max(axis=0)) / 2 for part in parts])
    radii = np.array([np.ptp(part[:, 1]) / 2 for part in parts])
    away = np.linalg.norm(centres[:, None] - centres[None], axis=2)
    write_aovs = away - radii[:, None] - radii[None]
    assert write_aovs[~np.eye(len(parts), dtype=bool)].min() > 0
    assert set(np.round(mesh.attributes["spore"], 6).ravel()) and mesh.attributes["spore"].min() >= 0


def test_labels_are_pictures_that_differ_and_fit_their_packet() -> None:
    day, night = flower_label(), night_label()
    assert day.shape == night.shape == (1024, 768, 3) and day.dtype == np.uint8
    assert np.abs(day.astype(int) - night).mean() > 40
    mesh = seed_packet()
    wide, tall = np.ptp(mesh.vertices[:, 0]), np.ptp(mesh.vertices[:, 1])
    assert wide / tall == pytest.approx(768 / 1024, rel=0.02), "not stretched"


@pytest.mark.parametrize("name", NAMES)
def test_a_demo_shot_is_sound_and_advice_finds_nothing_grave(demo_folder: Path, name: str) -> None:
    shot = load_shot(demo_folder / f"{name}.json")
    assert check_shot(shot) == []
    graver = [each for each in look_over(shot, ShotFiles(root=demo_folder)) if each.severity != "note"]
    # The bar that is shown with its metalness left high, and the pillar that is dirty the wrong way round, are there to be noticed.
    wanted = {"GH090": {"glowing metal"}, "GH160": {"inverted"}}.get(name, set())
    assert {each.rule for each in graver} == wanted, [each.reason for each in graver]


def test_the_project_lists_every_shot(demo_folder: Path) -> None:
    assert json.loads((demo_folder / "project.json").read_text())["shots"] == NAMES


@pytest.mark.parametrize("name", MESHES)
def test_faces_are_wound_the_way_their_normals_say(name: str) -> None:
    # Files carry both, and readers trust either: where they disagree, up becomes down on the way through a file.
    mesh = MESHES[name]()
    a, b, c = (mesh.vertices[mesh.faces[:, corner]] for corner in range(3))
    across = np.cross(b - a, c - a)
    wide = np.linalg.norm(across, axis=1) > 1e-10
    agree = (across * mesh.normals[mesh.faces[:, 0]]).sum(axis=1)[wide] > 0
    assert agree.mean() > 0.99
