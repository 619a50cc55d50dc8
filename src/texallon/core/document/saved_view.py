"""Cameras kept under a name, to come back to."""

from texallon.core.document.base import Model, Name
from texallon.core.document.camera import Camera


class SavedView(Model):
    name: Name
    camera: Camera
