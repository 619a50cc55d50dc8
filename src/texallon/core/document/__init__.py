"""What a shot, look, layer and recipe are: models, validation with JSON Pointers, and patches."""

from texallon.core.document.camera import Camera
from texallon.core.document.light import Environment, Light
from texallon.core.document.locator import Locator
from texallon.core.document.look import Blend, ChannelValue, Layer, Look
from texallon.core.document.object import FileRef, Object, Part
from texallon.core.document.patching import apply_patch
from texallon.core.document.problem import DocumentError, Problem, pointer
from texallon.core.document.project import Project
from texallon.core.document.reading import parse_json, read_shot, shot_json
from texallon.core.document.recipe import Recipe, Signal, SignalRef, Step
from texallon.core.document.shot import SCHEMA, Shot

__all__ = [
    "SCHEMA",
    "Blend",
    "Camera",
    "ChannelValue",
    "DocumentError",
    "Environment",
    "FileRef",
    "Layer",
    "Light",
    "Locator",
    "Look",
    "Object",
    "Part",
    "Problem",
    "Project",
    "Recipe",
    "Shot",
    "Signal",
    "SignalRef",
    "Step",
    "apply_patch",
    "parse_json",
    "pointer",
    "read_shot",
    "shot_json",
]
