"""A project: the film that shots belong to."""

from pydantic import Field

from texallon.core.document.base import Model, Name


class Project(Model):
    schema_: int = Field(1, alias="schema")
    name: Name
    shots: list[Name] = Field(default_factory=list, max_length=4096)
