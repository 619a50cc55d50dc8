"""What one window shows, and the document as it is there: with what is being tried and how the camera is being dragged."""

import time
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from texallon.core.document import Camera, Shot, apply_patch, read_shot
from texallon.core.document.problem import tokens_of
from texallon.core.document.resolved import resolve
from texallon.core.render.camera.moves import dolly, fly, orbit, pan
from texallon.messages.from_page import (
    CameraMessage,
    DisplaySettings,
    OpenRecipe,
    PreviewMessage,
    ReadMessage,
    StageTarget,
    ViewMessage,
)


@dataclass
class WindowState:
    """Changed by messages, from the thread that receives them; `epoch` counts the changes."""

    document: dict[str, Any] = field(default_factory=dict)
    revision: int = 0
    preview: list[dict[str, Any]] = field(default_factory=list)
    camera_move: CameraMessage | None = None
    size: tuple[int, int] = (640, 360)
    target: StageTarget = field(default_factory=StageTarget)
    bench: OpenRecipe = field(default_factory=OpenRecipe)
    frame: int | None = None
    display: DisplaySettings = field(default_factory=DisplaySettings)
    chosen: str = ""
    cut: float | None = 0.5
    read: ReadMessage | None = None
    epoch: int = 0
    serial: int = 0
    touched: float = field(default_factory=time.monotonic)
    """When it was changed last, by the monotonic clock."""
    forgotten: int = 0
    """How often it has lost what it was sent."""
    _read: tuple[dict[str, Any], list[dict[str, Any]], Shot] | None = None
    """What was read last, and what it was read from: a moved camera or another view asks for nothing new."""

    def new_document(self, document: dict[str, Any], revision: int) -> None:
        """Another revision: what was tried is in it, or was dropped."""
        self.document, self.revision = document, revision
        self.preview = []
        self.camera_move = None
        self._changed(0)

    def said(self, message: ViewMessage | PreviewMessage | CameraMessage | ReadMessage) -> None:
        """Take in what the window said."""
        if isinstance(message, PreviewMessage):
            self.preview = message.patch
            if not self.preview:  # what was being tried was dropped, a moved camera with it
                self.camera_move = None
        elif isinstance(message, CameraMessage):
            self.camera_move = message
        elif isinstance(message, ReadMessage):
            self.read = message
        else:
            self.size = (message.width, message.height)
            self.target, self.bench = message.show, message.bench
            self.frame, self.display, self.chosen = message.frame, message.viewing, message.chosen
            self.forgotten += message.fresh
            self.cut = message.cut
        self._changed(message.serial)

    @property
    def follows(self) -> bool:
        """Whether pictures are to follow a hand that moves the camera or tries something."""
        return bool(self.preview) or self.camera_move is not None

    def _changed(self, serial: int) -> None:
        self.serial = max(self.serial, serial)
        self.epoch += 1
        self.touched = time.monotonic()

    def shot(self) -> tuple[Shot, Camera | None]:
        """The shot as the window shows it, and its camera where a drag has just ended: handed over once, to be saved.

        Raises
        ------
        DocumentError
            Where what is being tried makes no valid document.
        """
        shot, move = self._as_tried(), self.camera_move
        if move is None:
            return shot, None
        shot = self._with_camera_in_hand(shot)
        moved = self._moved(shot.camera, move)
        if move.end and self.camera_move is move:  # it is shown until it comes back saved
            self.camera_move = move.model_copy(update={"end": False})
        return shot.model_copy(update={"camera": moved}), moved if move.end else None

    def _with_camera_in_hand(self, shot: Shot) -> Shot:
        """The shot with its camera as it is at the frame, moved by nothing but the hand."""
        others = [track for track in shot.tracks if tokens_of(track.at)[0] != "camera"]
        if len(others) == len(shot.tracks):
            return shot
        camera = resolve(shot, self.frame).camera
        return shot.model_copy(update={"camera": camera, "tracks": others})

    def _as_tried(self) -> Shot:
        document, preview = self.document, self.preview
        if self._read is None or self._read[0] is not document or self._read[1] is not preview:
            shot = read_shot(apply_patch(document, preview) if preview else document)
            self._read = document, preview, shot
        return self._read[2]

    def _moved(self, camera: Camera, move: CameraMessage) -> Camera:
        width, height = self.size
        if move.move == "pan":
            moved = pan(camera, move.across, move.down, width / height)
        elif move.move == "dolly":
            moved = dolly(camera, move.down)
        else:
            moved = (fly if move.move == "fly" else orbit)(camera, move.across, move.down)
        try:
            return Camera.model_validate(moved.model_dump())
        except ValidationError:  # it would leave the bounds of a document: it stays where it was
            return camera
