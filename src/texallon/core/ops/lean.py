"""Whose lean a mask goes by: shared by what measures angles."""

from typing import Literal

Lean = Literal["mesh", "relief", "rest"]

NORMALS: dict[Lean, str] = {"mesh": "normal", "relief": "relief_normal", "rest": "rest_normal"}
"""The point data of each."""

LEAN = (
    "Whose lean counts: the mesh's, the relief's (bump, normal map and displacement, as fine as the picture), "
    "or that of the surface at rest, before displacement."
)
