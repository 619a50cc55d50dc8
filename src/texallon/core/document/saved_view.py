"""Cameras kept under a name, to come back to."""

from texallon.core.document.base import Name
from texallon.core.document.camera import Camera
from texallon.core.document.ids import Identified


class SavedView(Identified):
    name: Name
    camera: Camera
