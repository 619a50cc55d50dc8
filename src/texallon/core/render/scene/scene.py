"""A shot's geometry ready for rays: instances, and what a hit needs to become a surface point."""

import hashlib
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np
import numpy.typing as npt

from texallon.core.columns import Chosen, take_columns
from texallon.core.document.look import Look
from texallon.core.document.shot import Shot
from texallon.core.geometry.convexity import convexity
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.rays import CLEAR, OPAQUE, Hits, MeshRays, SceneRays
from texallon.core.kernel import Array, Float, Int, Integers, allocating, inlined, kernel
from texallon.core.ops.points import Matrix
from texallon.core.render.files import Files
from texallon.core.render.light.lamps import lamp_mesh
from texallon.core.render.light.lights import group_number
from texallon.core.signal.placement import object_matrix

UNSEEN = 4
"""Mask of lights that the camera does not see."""

LETS_THROUGH = frozenset({"transmission_weight", "geometry_opacity"})
"""Channels that may let light pass straight."""

ROUNDINGS = np.float32(8 * 2.0**-24)
"""Eight half steps of single precision."""

EVERYTHING = OPAQUE | CLEAR | UNSEEN
SEEN = OPAQUE | CLEAR
STOPS_LIGHT = OPAQUE | UNSEEN

_built: "WeakKeyDictionary[Mesh, MeshRays]" = WeakKeyDictionary()


def mesh_rays(mesh: Mesh) -> MeshRays:
    """The search structure of a mesh, built once while the mesh is in use."""
    if mesh not in _built:
        _built[mesh] = MeshRays(mesh.vertices, mesh.faces)
    return _built[mesh]


@dataclass(frozen=True)
class MeshArrays:
    """All meshes of a scene, one after the other, in object space; `first_face (i,)` is where each one's faces start."""

    vertices: Array
    normals: Array
    uv: Array
    faces: Integers
    part_of_face: Integers
    first_face: Integers


def concatenate(meshes: list[Mesh]) -> MeshArrays:
    """Join meshes, their faces renumbered."""
    empty = np.zeros((0, 3), np.float32)
    nothing = np.zeros((0, 3), np.int32)
    starts = np.cumsum([0, *[len(mesh.vertices) for mesh in meshes]])
    face_starts = np.cumsum([0, *[len(mesh.faces) for mesh in meshes]])
    moved = [(mesh.faces + start).astype(np.int32) for mesh, start in zip(meshes, starts[:-1], strict=True)]
    return MeshArrays(
        np.concatenate([empty, *[mesh.vertices for mesh in meshes]]),
        np.concatenate([empty, *[mesh.normals for mesh in meshes]]),
        np.concatenate([empty[:, :2], *[_or_zero(mesh.uv, mesh, 2) for mesh in meshes]]),
        np.concatenate([nothing, *moved]),
        np.concatenate([nothing[:, 0], *[_parts(mesh) for mesh in meshes]]),
        face_starts[:-1].astype(np.int32),
    )


@dataclass(frozen=True)
class Geometry:
    """The meshes and a row per instance; lamps come after the objects and have no row.

    `matrix (i, 3, 4)` into the world, `inverse (i, 3, 4)` back, `look_of_part (i, p)` positions in the shot's looks.
    """

    meshes: MeshArrays
    matrix: Array
    inverse: Array
    look_of_part: Integers


class Scene:
    """Geometry, rays and lookups for one arrangement of one shot's objects.

    `key` changes whenever anything does that a camera ray could notice.
    """

    def __init__(self, shot: Shot, files: Files, previous: "Scene | None" = None) -> None:
        self.pictures = files.pyramid
        self.shown = [item for item in shot.objects if item.visible]
        self.meshes = [files.mesh(item.geometry) for item in self.shown]
        self.lights = [light for light in shot.lights if light.on and light.power > 0]
        names = [look.name for look in shot.looks]
        clear = {look.name for look in shot.looks if lets_light_through(look)}
        matrices = [object_matrix(shot, item.name).astype(np.float32)[:3] for item in self.shown]
        instances: list[tuple[MeshRays, Matrix, int]] = []
        self.has_mixed = False
        """Whether some object has both parts that let light through and parts that do not."""
        for item, mesh, matrix in zip(self.shown, self.meshes, matrices, strict=True):
            worn = {item.look, *(part.look for part in item.parts)}
            instances.append((mesh_rays(mesh), matrix, CLEAR if worn & clear else OPAQUE))
            self.has_mixed |= bool(worn & clear and worn - clear)
        lamps = [(light, made) for light in self.lights if (made := lamp_mesh(light)) is not None]
        self._lamp_points = [points for _, (points, _) in lamps]
        for light, (points, faces) in lamps:
            mask = OPAQUE if light.visible else UNSEEN
            instances.append((MeshRays(points, faces), np.eye(4, dtype=np.float32)[:3], mask))
        self.rays = SceneRays(instances)
        self.has_clear = bool(
            clear & {look for item in self.shown for look in (item.look, *(p.look for p in item.parts))}
        )
        self.arrays: MeshArrays = (
            previous.arrays if previous and previous.meshes == self.meshes else concatenate(self.meshes)
        )
        self.geometry = self._place(matrices, names)
        self._attributes: dict[str, Array] = previous._attributes if previous and previous.arrays is self.arrays else {}
        low, high = self._bounds(matrices)
        self.scales = np.array([abs(np.linalg.det(m[:, :3])) ** (1 / 3) for m in matrices], np.float32)
        self.numbers = np.array([name_number(item.name) for item in self.shown], np.float32)
        self.part_numbers = self._number_parts()
        self.priority = np.array([item.priority for item in self.shown] or [0], np.int32)
        self.group = np.array([group_number(shot, item.group) for item in self.shown] or [0], np.int32)
        worn_looks = {look for item in self.shown for look in (item.look, *(part.look for part in item.parts))}
        self.has_media = _touched(shot, worn_looks, "transmission_weight")
        self.has_scattering_media = self.has_media and _touched(shot, worn_looks, "transmission_scatter")
        self.has_subsurface = _touched(shot, worn_looks, "subsurface_weight")
        self.centre = (low + high) / 2
        self.radius = max(float(np.linalg.norm(high - low)) / 2, 1e-3)
        self.key = self._key(matrices)

    @property
    def objects(self) -> int:
        """How many instances are objects; those after them are lights."""
        return len(self.shown)

    def _place(self, matrices: list[Matrix], names: list[str]) -> Geometry:
        count = len(self.meshes)
        widest = max((len(mesh.part_names) for mesh in self.meshes), default=1)
        look_of_part = np.zeros((count, widest), np.int32)
        for row, (item, mesh) in enumerate(zip(self.shown, self.meshes, strict=True)):
            own = {part.name: part.look for part in item.parts}
            for part, name in enumerate(mesh.part_names):
                look_of_part[row, part] = names.index(own.get(name, item.look))
        full = np.tile(np.eye(4), (count, 1, 1))
        if count:
            full[:, :3] = np.stack(matrices)
        inverse = np.linalg.inv(full)[:, :3]
        return Geometry(
            self.arrays,
            np.ascontiguousarray(full[:, :3], np.float32),
            np.ascontiguousarray(inverse, np.float32),
            look_of_part,
        )

    def _bounds(self, matrices: list[Matrix]) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        corners = []
        for mesh, matrix in zip(self.meshes, matrices, strict=True):
            low, high = mesh.bounds
            box = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
            corners.append(box @ matrix[:, :3].T + matrix[:, 3])
        corners += self._lamp_points
        if not corners:
            return np.zeros(3), np.ones(3)
        every = np.concatenate(corners).astype(np.float64)
        return every.min(axis=0), every.max(axis=0)

    def _key(self, matrices: list[Matrix]) -> str:
        digest = hashlib.blake2b(digest_size=16)
        for item, mesh, matrix in zip(self.shown, self.meshes, matrices, strict=True):
            digest.update(f"{item.geometry.file}{item.geometry.sha256}{id(mesh)}".encode())
            digest.update(matrix.tobytes())
        for light in self.lights:
            digest.update(
                f"{light.shape}{light.position}{light.target}{light.width}{light.height}{light.visible}".encode()
            )
        return digest.hexdigest()

    def attribute(self, name: str) -> Array:
        """A stored attribute for every vertex, `(v, width)`; 0 on objects that do not carry it."""
        if name not in self._attributes:
            carried = [mesh.attributes[name].shape[1] for mesh in self.meshes if name in mesh.attributes]
            width = max(carried, default=1)
            rows = [_or_zero(mesh.attributes.get(name), mesh, width) for mesh in self.meshes]
            self._attributes[name] = np.ascontiguousarray(np.concatenate(rows), np.float32)
        stored: Array = self._attributes[name]
        return stored

    def _number_parts(self) -> Array:
        widest = max((len(mesh.part_names) for mesh in self.meshes), default=1)
        out = np.zeros((len(self.meshes), widest), np.float32)
        for row, (item, mesh) in enumerate(zip(self.shown, self.meshes, strict=True)):
            for part, name in enumerate(mesh.part_names):
                out[row, part] = name_number(f"{item.name}/{name}")
        return out

    def attribute_names(self) -> dict[str, int]:
        """The attributes that any shown object carries, with their widths."""
        return {name: values.shape[1] for mesh in self.meshes for name, values in mesh.attributes.items()}


def name_number(name: str) -> float:
    """A whole number below 2²⁴ that stays with a name, so that a random value per object outlives edits of others."""
    return float(zlib.crc32(name.encode()) & 0xFFFFFF)


def _touched(shot: Shot, worn: set[str], channel: str) -> bool:
    """Whether any worn look sets a channel."""
    looks = [look for look in shot.looks if look.name in worn]
    return any(layer.on and channel in layer.channels for look in looks for layer in look.layers)


def lets_light_through(look: Look) -> bool:
    """Whether any layer may make the look clear or cut it out, so that shadow rays must ask it."""
    return any(layer.on and not LETS_THROUGH.isdisjoint(layer.channels) for layer in look.layers)


def _or_zero(values: Array | None, mesh: Mesh, width: int) -> Array:
    out = np.zeros((len(mesh.vertices), width), np.float32)
    if values is not None:
        columns = min(width, values.shape[1])
        out[:, :columns] = values[:, :columns]
        if values.shape[1] == 1 and width > 1:
            out[:] = values
    return out


def _parts(mesh: Mesh) -> Integers:
    return np.zeros(len(mesh.faces), np.int32) if mesh.part_of_face is None else mesh.part_of_face


@dataclass(frozen=True)
class Surface:
    """What the rays met, in the world: `position`, `normal` (smooth), `flat` (of the face) `(3, n)`, `look (n,)`.

    `offset (n,)`: how far in metres, along the face's normal, a ray must start that leaves without hitting the same face again.
    """

    position: Array
    normal: Array
    flat: Array
    look: Integers
    offset: Array


def surface_at(scene: Scene, hits: Hits) -> Surface:
    """Surface points of hits that all lie on objects."""
    count = len(hits.instance)
    g, m = scene.geometry, scene.geometry.meshes
    surface = Surface(
        np.empty((3, count), np.float32),
        np.empty((3, count), np.float32),
        np.empty((3, count), np.float32),
        np.empty(count, np.int32),
        np.empty(count, np.float32),
    )
    fill_surface(
        m.vertices, m.normals, m.faces, m.part_of_face, m.first_face, g.matrix, g.inverse, g.look_of_part,
        hits.instance, hits.face, hits.barycentric, surface.position, surface.normal, surface.flat, surface.look, surface.offset,
    )  # fmt: skip
    return surface


def take_surface(surface: Surface, chosen: Chosen) -> Surface:
    """The surface points at some positions."""
    return Surface(
        take_columns(surface.position, chosen),
        take_columns(surface.normal, chosen),
        take_columns(surface.flat, chosen),
        take_columns(surface.look, chosen),
        take_columns(surface.offset, chosen),
    )


def beyond(hits: Hits, surface: Surface) -> Array:
    """From what distance `(n,)` a ray must be followed to pass the surface it has met."""
    result: Array = hits.distance * np.float32(1 + 2e-6) + surface.offset * np.float32(4)
    return result


def positions_at(scene: Scene, hits: Hits) -> Surface:
    """As `surface_at`, of which nothing but the position is filled in: six times as fast."""
    count = len(hits.instance)
    nothing = np.zeros((3, count), np.float32)
    surface = Surface(np.empty((3, count), np.float32), nothing, nothing, np.zeros(count, np.int32), nothing[0])
    g, m = scene.geometry, scene.geometry.meshes
    fill_position(
        m.vertices, m.faces, m.first_face, g.matrix, hits.instance, hits.face, hits.barycentric, surface.position
    )
    return surface


def point_data(
    scene: Scene, hits: Hits, surface: Surface, required_data: frozenset[str], more: Mapping[str, Array]
) -> dict[str, Array]:
    """The point data that a plan needs at some hits; `more` holds what belongs to the rays (view, footprint)."""
    data: dict[str, Array] = {}
    count = len(hits.instance)
    for name in required_data:
        if name in more:
            data[name] = more[name]
        elif name == "position":
            data[name] = surface.position
        elif name == "normal":
            data[name] = surface.normal
        elif name == "object_position":
            out = np.empty((3, count), np.float32)
            fill_object_position(scene.geometry.inverse, hits.instance, surface.position, out)
            data[name] = out
        elif name == "uv":
            data[name] = _interpolated(scene, scene.geometry.meshes.uv, hits)
        elif name == "rest_position":
            data[name] = _rest_positions(scene, hits, surface)
        elif name == "object_footprint":
            data[name] = more["footprint"] / scene.scales[hits.instance]
        elif name == "uv_footprint":
            out = np.empty((1, count), np.float32)
            g, m = scene.geometry, scene.geometry.meshes
            uv_density(m.vertices, m.uv, m.faces, m.first_face, g.matrix, hits.instance, hits.face, out[0])
            data[name] = out * more["footprint"]
        elif name in ("object_id", "instance_id"):
            data[name] = scene.numbers[hits.instance][None]
        elif name == "part_id":
            faces = scene.geometry.meshes.first_face[hits.instance] + hits.face
            data[name] = scene.part_numbers[hits.instance, scene.geometry.meshes.part_of_face[faces]][None]
        elif name == "convexity":
            columns = [convexity(mesh)[:, None] for mesh in scene.meshes]
            data[name] = _interpolated(scene, np.concatenate(columns), hits)
        elif name.startswith("attribute:"):
            data[name] = _interpolated(scene, scene.attribute(name.removeprefix("attribute:")), hits)
        else:
            raise KeyError(name)
    return data


def _rest_positions(scene: Scene, hits: Hits, surface: Surface) -> Array:
    """Where hits lay before anything bent their object, from its attribute `rest`; else in object space."""
    out = np.empty((3, len(hits.instance)), np.float32)
    fill_object_position(scene.geometry.inverse, hits.instance, surface.position, out)
    carries = np.array(["rest" in mesh.attributes for mesh in scene.meshes], bool)
    if carries.any():
        stored = _interpolated(scene, scene.attribute("rest"), hits)
        np.copyto(out, stored, where=carries[hits.instance][None])
    return out


def _interpolated(scene: Scene, values: Array, hits: Hits) -> Array:
    out = np.empty((values.shape[1], len(hits.instance)), np.float32)
    meshes = scene.geometry.meshes
    interpolate(meshes.faces, meshes.first_face, hits.instance, hits.face, hits.barycentric, values, out)
    return out


@inlined
def within_face(values: Array, a: Int, b: Int, c: Int, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """What three corners' values `(vertices, 3)` are at a place of their face."""
    w = np.float32(1) - u - v
    return (
        w * values[a, 0] + u * values[b, 0] + v * values[c, 0],
        w * values[a, 1] + u * values[b, 1] + v * values[c, 1],
        w * values[a, 2] + u * values[b, 2] + v * values[c, 2],
    )


@kernel
def fill_surface(
    vertices: Array,
    normals: Array,
    faces: Integers,
    part_of_face: Integers,
    first_face: Integers,
    matrix: Array,
    inverse: Array,
    look_of_part: Integers,
    instance: Integers,
    face: Integers,
    barycentric: Array,
    position: Array,
    normal: Array,
    flat: Array,
    look: Integers,
    offset: Array,
) -> None:
    """See `Surface`. A position is off by a few roundings of the numbers it was made from: the largest coordinates of the hit and the
    face's corners in object space, through the matrix; eight of them are enough from 1 mm to 20 km (tests/core/test_offsets.py)."""
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        px, py, pz = within_face(vertices, a, b, c, barycentric[0, i], barycentric[1, i])
        nx, ny, nz = within_face(normals, a, b, c, barycentric[0, i], barycentric[1, i])
        ex, ey, ez = (
            vertices[b, 0] - vertices[a, 0],
            vertices[b, 1] - vertices[a, 1],
            vertices[b, 2] - vertices[a, 2],
        )
        gx, gy, gz = (
            vertices[c, 0] - vertices[a, 0],
            vertices[c, 1] - vertices[a, 1],
            vertices[c, 2] - vertices[a, 2],
        )
        fx, fy, fz = ey * gz - ez * gy, ez * gx - ex * gz, ex * gy - ey * gx
        wx = max(abs(px), abs(vertices[a, 0]), abs(vertices[b, 0]), abs(vertices[c, 0]))
        wy = max(abs(py), abs(vertices[a, 1]), abs(vertices[b, 1]), abs(vertices[c, 1]))
        wz = max(abs(pz), abs(vertices[a, 2]), abs(vertices[b, 2]), abs(vertices[c, 2]))
        most = np.float32(0)
        for row in range(3):
            m = matrix[k, row]
            most = max(most, abs(m[0]) * wx + abs(m[1]) * wy + abs(m[2]) * wz + abs(m[3]))
            position[row, i] = m[0] * px + m[1] * py + m[2] * pz + m[3]
            # Normals go by the transposed inverse.
            normal[row, i] = inverse[k, 0, row] * nx + inverse[k, 1, row] * ny + inverse[k, 2, row] * nz
            flat[row, i] = inverse[k, 0, row] * fx + inverse[k, 1, row] * fy + inverse[k, 2, row] * fz
        length = np.sqrt(flat[0, i] ** 2 + flat[1, i] ** 2 + flat[2, i] ** 2)
        for row in range(3):
            flat[row, i] = flat[row, i] / length if length > 0 else np.float32(row == 1)
        length = np.sqrt(normal[0, i] ** 2 + normal[1, i] ** 2 + normal[2, i] ** 2)
        for row in range(3):
            normal[row, i] = normal[row, i] / length if length > 0 else flat[row, i]
        # The file's normals say which side is out; the winding of a face may disagree.
        if flat[0, i] * normal[0, i] + flat[1, i] * normal[1, i] + flat[2, i] * normal[2, i] < 0:
            for row in range(3):
                flat[row, i] = -flat[row, i]
        look[i] = look_of_part[k, part_of_face[f]]
        offset[i] = ROUNDINGS * most


@kernel
def fill_curvature(
    vertices: Array,
    normals: Array,
    faces: Integers,
    first_face: Integers,
    matrix: Array,
    inverse: Array,
    instance: Integers,
    face: Integers,
    out: Array,
) -> None:
    """How fast the smooth normal turns over each hit face, per metre: the mean over its edges, above 0 where it bulges outwards."""
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        total = 0.0
        for edge in range(3):
            a, b = faces[f, edge], faces[f, (edge + 1) % 3]
            across, along = 0.0, 0.0
            la = lb = 0.0
            for row in range(3):
                na = nb = 0.0
                for col in range(3):
                    na += inverse[k, col, row] * normals[a, col]
                    nb += inverse[k, col, row] * normals[b, col]
                la += na * na
                lb += nb * nb
            la, lb = max(np.sqrt(la), 1e-20), max(np.sqrt(lb), 1e-20)
            for row in range(3):
                m = matrix[k, row]
                step = na = nb = 0.0
                for col in range(3):
                    step += m[col] * (vertices[b, col] - vertices[a, col])
                    na += inverse[k, col, row] * normals[a, col] / la
                    nb += inverse[k, col, row] * normals[b, col] / lb
                across += step * (nb - na)
                along += step * step
            total += across / along if along > 1e-30 else 0.0
        out[i] = total / 3.0


def curvature_at(scene: Scene, hits: Hits) -> Array:
    """The curvature `(n,)` of the smooth surface at hits on objects, 1/m."""
    g, m = scene.geometry, scene.geometry.meshes
    out = np.empty(len(hits.instance), np.float32)
    fill_curvature(m.vertices, m.normals, m.faces, m.first_face, g.matrix, g.inverse, hits.instance, hits.face, out)
    return out


@kernel
def fill_position(
    vertices: Array,
    faces: Integers,
    first_face: Integers,
    matrix: Array,
    instance: Integers,
    face: Integers,
    barycentric: Array,
    position: Array,
) -> None:
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        px, py, pz = within_face(vertices, a, b, c, barycentric[0, i], barycentric[1, i])
        for row in range(3):
            m = matrix[k, row]
            position[row, i] = m[0] * px + m[1] * py + m[2] * pz + m[3]


@kernel
def fill_object_position(inverse: Array, instance: Integers, position: Array, out: Array) -> None:
    for i in range(instance.shape[0]):
        for row in range(3):
            m = inverse[instance[i], row]
            out[row, i] = m[0] * position[0, i] + m[1] * position[1, i] + m[2] * position[2, i] + m[3]


@kernel
def interpolate(
    faces: Integers,
    first_face: Integers,
    instance: Integers,
    face: Integers,
    barycentric: Array,
    values: Array,
    out: Array,
) -> None:
    for i in range(instance.shape[0]):
        f = first_face[instance[i]] + face[i]
        u, v = barycentric[0, i], barycentric[1, i]
        w = np.float32(1) - u - v
        for row in range(out.shape[0]):
            out[row, i] = w * values[faces[f, 0], row] + u * values[faces[f, 1], row] + v * values[faces[f, 2], row]


@allocating
def uv_density(
    vertices: Array,
    uv: Array,
    faces: Integers,
    first_face: Integers,
    matrix: Array,
    instance: Integers,
    face: Integers,
    out: Array,
) -> None:
    """UV units per metre on each hit face: the root of its area in the map over its area in the world."""
    for i in range(out.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        along, across = np.empty(3, np.float32), np.empty(3, np.float32)
        for row in range(3):
            m = matrix[k, row]
            along[row] = across[row] = np.float32(0)
            for column in range(3):
                along[row] += m[column] * (vertices[b, column] - vertices[a, column])
                across[row] += m[column] * (vertices[c, column] - vertices[a, column])
        x = along[1] * across[2] - along[2] * across[1]
        y = along[2] * across[0] - along[0] * across[2]
        z = along[0] * across[1] - along[1] * across[0]
        area = np.sqrt(x * x + y * y + z * z)
        map_area = abs((uv[b, 0] - uv[a, 0]) * (uv[c, 1] - uv[a, 1]) - (uv[b, 1] - uv[a, 1]) * (uv[c, 0] - uv[a, 0]))
        out[i] = np.sqrt(map_area / area) if area > 0 else np.float32(0)
