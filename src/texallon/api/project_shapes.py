"""The shapes of requests and answers about projects and their lists of shots."""

from typing import Literal

from pydantic import BaseModel, Field

from texallon.core.document.base import Name

Number = Field(ge=1, le=2**31 - 1)


class ProjectPath(BaseModel):
    project_id: int = Number


class ListedProjectBody(BaseModel):
    """A project: how many shots it has and how many lie in its bin, its first shot and a picture's digest, when it was put away and made."""

    id: int
    name: str
    shots: int
    binned: int
    first_shot: int | None
    picture: str | None
    put_away: str | None
    created: str
    demo: bool


class ProjectList(BaseModel):
    projects: list[ListedProjectBody]


class NewProject(BaseModel):
    """A new project's name, and what its first shot begins with."""

    name: Name
    start: Literal["empty", "starter"] = "starter"


class ProjectChange(BaseModel):
    """What of a project is to be another: its name, or whether it is put away."""

    name: Name | None = None
    put_away: bool | None = None


class ProjectName(BaseModel):
    name: Name


class ListedShot(BaseModel):
    """A shot in a list: how many frames it has, the digest of its picture and of which revision that is, when it was put into the bin."""

    id: int
    project_id: int
    project: str
    name: str
    title: str
    revision: int
    frames: int
    picture: str | None
    picture_revision: int
    binned: str | None
    created: str


class ShotList(BaseModel):
    shots: list[ListedShot]


class ListQuery(BaseModel):
    """Which shots: of one project, and whether those in the bin are among them."""

    project: int | None = Field(None, ge=1, le=2**31 - 1)
    binned: bool = False


class NewShot(BaseModel):
    """A new shot's name and title, and what it begins with: nothing, the starter set, or a copy of another (`of`, which it then follows in the
    list)."""

    name: Name
    title: str = Field("", max_length=200)
    start: Literal["empty", "starter", "copy"] = "starter"
    of: int | None = Field(None, ge=1, le=2**31 - 1)


class ShotPlace(BaseModel):
    """The shot that one is put before; last where none is named."""

    before: int | None = Field(None, ge=1, le=2**31 - 1)


class PictureRequest(BaseModel):
    session: str = Field(min_length=1, max_length=64, description="The window whose picture is kept.")


class Made(BaseModel):
    """The number of what was made, and of the shot to open."""

    id: int
    shot: int | None
