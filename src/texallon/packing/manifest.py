"""What a pack says it holds."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from texallon.core.document.base import Name

MANIFEST = "manifest.json"
README = "README.txt"
SCHEMAS = {"manifest": "schema/manifest.schema.json", "shot": "schema/shot.schema.json"}

MOST_SHOTS, MOST_FILES = 1_000, 10_000
LARGEST_PACK = 2_000_000_000
"""Bytes of a pack, as it is."""
LARGEST_CONTENT = 8_000_000_000
"""Bytes of all that it holds, unpacked."""

PATH = r"^[A-Za-z0-9_-][A-Za-z0-9_. -]*(/[A-Za-z0-9_-][A-Za-z0-9_. -]*)*$"
Path = Annotated[str, Field(min_length=1, max_length=240, pattern=PATH)]
"""A place within the pack: relative, with `/` between folders, none of which begins with a dot."""
Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class PackError(ValueError):
    """A pack that can't be made or used; the message says why, and nothing was changed."""


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class PackedShot(_Part):
    """A document: where it lies, and what it is called."""

    path: Path
    name: Name
    title: str = Field("", max_length=200)
    sha256: Digest = Field(description="Of the document's file.")
    size: int = Field(ge=0, description="Bytes.")


class PackedFile(_Part):
    """A mesh or picture that documents name by this path."""

    path: Path
    sha256: Digest
    size: int = Field(ge=0, le=LARGEST_CONTENT, description="Bytes.")


class PackManifest(_Part):
    """Everything in the pack but the manifest itself, the readme and the schemas. Shots stand in the project's order."""

    format: Literal["texallon pack"] = "texallon pack"
    version: Literal[1] = 1
    project: Name
    shots: list[PackedShot] = Field(min_length=1, max_length=MOST_SHOTS)
    files: list[PackedFile] = Field(default_factory=list, max_length=MOST_FILES)


def manifest_schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) that every pack's manifest meets."""
    schema = PackManifest.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Texallon pack manifest"
    return schema
