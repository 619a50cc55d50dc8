"""Point data: what an op may read at a point, one file per kind. A new kind is one new file in this folder."""

from texallon.core.points.kind import BakedPointData, PointContext, PointData, VertexGeometry
from texallon.core.points.registry import (
    ATTRIBUTE,
    attribute_name,
    find_point_data_kind,
    is_attribute,
    point_data_kind,
    point_data_kinds,
    width_of,
)

__all__ = [
    "ATTRIBUTE",
    "BakedPointData",
    "PointContext",
    "PointData",
    "VertexGeometry",
    "attribute_name",
    "find_point_data_kind",
    "is_attribute",
    "point_data_kind",
    "point_data_kinds",
    "width_of",
]
