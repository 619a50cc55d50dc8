"""What a kind of point data says of itself, and what it may look at to provide its values."""

from abc import ABC, abstractmethod
from typing import ClassVar, Literal, Protocol

from texallon.core.kernel import Array, Integers

Domain = Literal["ray", "hit", "vertex", "object", "part"]
"""On what a kind is defined: it comes with the ray, is worked out at the hit, is stored per vertex and interpolated, or is the same all
over an object or a part."""


class VertexGeometry(Protocol):
    """A mesh as a bake sees it: `vertices (v, 3)`, unit `normals (v, 3)`, `faces (f, 3)`, and rays against it."""

    @property
    def vertices(self) -> Array: ...

    @property
    def normals(self) -> Array: ...

    @property
    def faces(self) -> Integers: ...

    def blocked_share(self, places: Array, axes: Array, fan: Array, far: float) -> Array:
        """The share `(n,)` of a fan of rays `(3, k)` about axes `(3, n)` that meets the mesh within `far`, from places `(3, n)` on it.

        Parameters
        ----------
        places, axes : Array
            `(3, n)` metres, and unit vectors.
        fan : Array
            `(3, k)` unit vectors about z.
        far : float
            Metres.
        """


class PointContext(Protocol):
    """Hits on a scene, as providers see them.

    Attributes
    ----------
    count : int
        Number of hits, n.
    position, normal : Array
        `(3, n)` in the world, metres and unit vectors.
    view : Array
        `(3, n)` unit vectors towards the eye.
    footprint : Array
        `(1, n)` width in metres that a sample stands for.
    instance, face : Integers
        `(n,)` what was hit.
    """

    @property
    def count(self) -> int: ...

    @property
    def position(self) -> Array: ...

    @property
    def normal(self) -> Array: ...

    @property
    def view(self) -> Array: ...

    @property
    def footprint(self) -> Array: ...

    @property
    def instance(self) -> Integers: ...

    def relief_normal(self) -> Array:
        """`(3, n)` unit normals with the look's own relief on them; within that relief the smooth ones."""

    def rest_normal(self) -> Array:
        """`(3, n)` smooth unit normals of the surface before displacement."""

    def object_position(self) -> Array:
        """`(3, n)` in the object's own space, metres."""

    def object_scale(self) -> Array:
        """`(n,)` metres in the world for a unit of the object's space."""

    def uv(self) -> Array:
        """`(2, n)`; 0 on objects without a UV map."""

    def uv_per_metre(self) -> Array:
        """`(n,)` units of the UV map for a metre on the surface."""

    def object_number(self) -> Array:
        """`(n,)` a whole number below 2²⁴ that stays with the object's name."""

    def part_number(self) -> Array:
        """`(n,)` likewise with the part's."""

    def attribute(self, name: str) -> Array:
        """`(width, n)` a stored attribute, interpolated; 0 on objects that don't carry it.

        Parameters
        ----------
        name : str
            Of the kind, or of the attribute.

        Returns
        -------
        Array
            `(width, n)`.
        """

    def carries(self, name: str) -> Array:
        """`(n,)` 1 where the object hit carries an attribute, else 0.

        Parameters
        ----------
        name : str
            Of the kind, or of the attribute.

        Returns
        -------
        Array
            `(n,)`.
        """

    def distance_to(self, name: str, most: float, part: str) -> Array:
        """`(n,)` metres from another object; `most` where that lies farther, or is not shown.

        Parameters
        ----------
        name : str
            Of the object.
        most : float
            Metres.
        part : str
            `surface`, `edges`, `points`, or `signed` for the surface of a closed body with what is inside below 0.
        """

    def shut_in(self, far: float, directions: Array, way: str) -> Array:
        """`(n,)` the share of a fan of rays that meets anything shown within some metres.

        Parameters
        ----------
        far : float
            Metres.
        directions : Array
            `(3, k)` unit vectors about z.
        way : str
            What the fan lies about: `outwards` or `inwards` of the surface, or `upwards` in the world.
        """

    def bending(self, radius: float) -> Array:
        """`(n,)` 1/m, the mean curvature of its own body about each point, felt out by rays over a radius.

        Parameters
        ----------
        radius : float
            Metres of the world.
        """

    def baked(self, kind: "BakedPointData") -> Array:
        """`(width, n)` what a kind has baked for the meshes, interpolated.

        Parameters
        ----------
        kind : BakedPointData
            That was baked.

        Returns
        -------
        Array
            `(width, n)`.
        """


class PointData(ABC):
    """One kind of point data; a class of this kind with a `name` is found by the registry.

    Attributes
    ----------
    name : str
        By which ops ask for it.
    width : int
        Rows: 1 for a number, 2 for UV, 3 for a vector.
    unit : str
        `m`, `uv`, `1` for directions and plain numbers.
    meaning : str
        For the shell, the page and the documentation.
    made_from : str
        How it comes about, likewise.
    instead : str
        The kind that stands in for it where points do not have it; empty where nothing does.
    otherwise : tuple
        The value, row by row, where nothing stands in.
    required : bool
        Whether points that a person gives must have it where a signal reads it.
    in_formulas : bool
        Whether a formula may name it.
    of_others : bool
        Whether it depends on other objects than the one that a point lies on.
    parameter : str
        What must be given with its name, after a colon, such as a radius; empty where it is one kind only.
    """

    name: ClassVar[str]
    width: ClassVar[int] = 1
    unit: ClassVar[str] = "1"
    meaning: ClassVar[str]
    made_from: ClassVar[str]
    domain: ClassVar[Domain]
    instead: ClassVar[str] = ""
    otherwise: ClassVar[tuple[float, ...]] = (0.0,)
    required: ClassVar[bool] = False
    in_formulas: ClassVar[bool] = False
    of_others: ClassVar[bool] = False
    parameter: ClassVar[str] = ""

    def __init__(self, given: str = "") -> None:
        self.given = given

    @property
    def asked(self) -> str:
        """Its name with what was given."""
        return f"{self.name}:{self.given}" if self.given else self.name

    def at_hits(self, hits: PointContext) -> Array:
        """Its values at some hits.

        Parameters
        ----------
        hits : PointContext
            n hits on objects.

        Returns
        -------
        Array
            `(width, n)` float32, contiguous.
        """
        return self._at_hits(hits)

    @abstractmethod
    def _at_hits(self, hits: PointContext) -> Array:
        """What `at_hits` gives; each kind says it here."""


class BakedPointData(PointData):
    """A kind that is measured once for each mesh, at its vertices, and interpolated at hits."""

    domain: ClassVar[Domain] = "vertex"
    version: ClassVar[int] = 1
    """Raised when `bake` gives other values for the same mesh."""

    def bake(self, mesh: VertexGeometry) -> Array:
        """Values at the vertices of a mesh.

        Parameters
        ----------
        mesh : VertexGeometry
            With v vertices.

        Returns
        -------
        Array
            `(v, width)` float32.
        """
        return self._bake(mesh)

    @abstractmethod
    def _bake(self, mesh: VertexGeometry) -> Array:
        """What `bake` gives; each kind says it here."""

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.baked(self)
