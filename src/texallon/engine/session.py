"""One window's stage: its document with what is being dragged, what it shows, and the next piece of work to do.

A session is a row of stages from coarse to fine. `advance` does one and reports what it made; any change starts again from
the first, but whatever the change did not touch (geometry, hits, values of steps, the film itself) is kept.
"""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from typing import Any

import numpy as np

from texallon.core.advice.facts import gather
from texallon.core.advice.registry import advise
from texallon.core.document import DocumentError, Problem, Shot, apply_patch, read_shot
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.camera.moves import dolly, fly, orbit, pan
from texallon.core.render.camera.pick import Picked, pick, read_point
from texallon.core.render.camera.view import View, make_view
from texallon.core.render.files import Files
from texallon.core.render.film.bloom import bloomed
from texallon.core.render.scene.scene import Scene, lets_light_through
from texallon.core.render.transport.context import Interrupted, RenderContext
from texallon.core.signal.plan import check_shot
from texallon.core.signal.reading import as_json
from texallon.engine.display_settings import DisplaySettings
from texallon.engine.encode import jpeg, png
from texallon.engine.handles import locator_handles
from texallon.engine.measure import draw_cell, measure_recipe, sheet_cells
from texallon.engine.paint import Range, bounded, grid_picture, paint, range_of, scale_strip
from texallon.engine.stage_picture import StageImage, StagePicture, traced_alike
from texallon.engine.stage_target import StageTarget, find_recipe, signal_plan

Emit = Callable[[dict[str, Any], bytes], None]

SMOOTH_EDGES = 8
"""Samples within each pixel that a signal shown alone ends with."""

PAUSE = 0.15
"""Seconds that a hand must rest before what is slow and not asked for is begun: the sheet, and smooth edges."""

SMALL = (208, 117)
"""Size of the small pictures; measurements are taken over their points."""


class Session:
    """Owned by the render thread; `change` is called from the thread that receives messages, under `lock`."""

    def __init__(self, name: str, files: Files, pool: ThreadPoolExecutor, emit: Emit) -> None:
        self.name = name
        self.files, self.pool, self._emit = files, pool, emit
        self.epoch = 0
        self.serial = 0
        self.touched = time.monotonic()
        self.not_before = 0.0
        self._document: dict[str, Any] = {}
        self._revision = 0
        self._preview: list[dict[str, Any]] = []
        self._camera_move: dict[str, Any] | None = None
        self._size = (640, 360)
        self._showing = StageTarget()
        self._bench: dict[str, Any] = {}
        self._stage = 0
        self._begun = -1
        self._shot: Shot | None = None
        self._scene: Scene | None = None
        self._scene_for: object = None
        self.picture = StagePicture(files, pool)
        self._seen: dict[str, tuple[object, GBuffer]] = {}
        self._sent_cells: dict[str, str] = {}
        self._shown: np.ndarray | None = None
        self._looked_at: np.ndarray | None = None
        self._shown_revision = 0
        self._shown_samples = 0
        self._accumulated: np.ndarray | None = None
        self._span: Range | None = None
        self._span_shown = False
        self._frame: int | None = None
        self._viewing = DisplaySettings()
        self._pick: dict[str, Any] | None = None
        self._picked: Picked | None = None
        self._advised: object = None

    def change(self, message: dict[str, Any]) -> None:
        """Take in a message from the page or the server; the picture in progress is dropped."""
        kind = message["do"]
        if kind == "document":
            self._document, self._revision = message["document"], message["revision"]
            self._preview = []
            self._camera_move = None
        elif kind == "preview":
            self._preview = message["patch"]
            if not self._preview:  # what was being tried was dropped, a moved camera with it
                self._camera_move = None
        elif kind == "camera":
            self._camera_move = message
        elif kind == "read":
            self._pick, self._picked = message, None
        elif kind == "view":
            self._size = (min(max(int(message["width"]), 16), 4096), min(max(int(message["height"]), 16), 4096))
            self._showing = StageTarget.parse(message.get("show"))
            self._bench = message.get("bench") or {}
            self._frame = message.get("frame")
            self._viewing = DisplaySettings.parse(message.get("viewing"))
            if message.get("fresh"):
                self._sent_cells, self._advised = {}, None
        self.serial = max(self.serial, int(message.get("serial", 0)))
        self.epoch += 1
        self.touched = time.monotonic()
        self.not_before = 0.0

    def snapshot(self) -> tuple[bytes, int, int] | None:
        """The finished picture last shown, as PNG, with its revision and samples."""
        if self._shown is None or self._preview:
            return None
        return png(self._shown), self._shown_revision, self._shown_samples

    @property
    def idle(self) -> bool:
        return self._stage < 0 and self._begun == self.epoch

    @property
    def fresh(self) -> bool:
        """Whether a change has come in that no work has begun on."""
        return self._begun != self.epoch

    def advance(self, preempted: Callable[[], bool]) -> None:
        """Do the next stage; leaves quietly when a newer change or another window asks for the processor."""
        epoch = self.epoch
        started = time.perf_counter()
        try:
            if self._begun != epoch:
                self._begin()
                self._stage = 0
                self._begun = epoch
            if self._stage >= 0:
                self._work(lambda: self.epoch == epoch and not preempted())
            if self._stage == 2 and self.epoch == epoch:
                # Of a hand that is down, each picture shown is answered by the next move: nothing slow may be in its way.
                self.not_before = (time.monotonic() if self._preview else self.touched) + PAUSE
        except Interrupted:
            pass
        except (DocumentError, MeshError, FileNotFoundError, ValueError) as error:
            self._stage = -1
            self._begun = epoch
            problems = (
                [asdict(each) for each in error.problems]
                if isinstance(error, DocumentError)
                else [asdict(Problem("", str(error)))]
            )
            self._send({"kind": "problem", "problems": problems})
        self.picture.seconds += time.perf_counter() - started

    def _begin(self) -> None:
        data = apply_patch(self._document, self._preview) if self._preview else self._document
        shot = read_shot(data)
        if self._shot is None or not traced_alike(self._shot, shot):
            problems = check_shot(shot)
            if problems:
                raise DocumentError(problems)
        move = self._camera_move
        if move is not None:
            shot = shot.model_copy(update={"camera": self._moved(shot, move)})
            if move.get("end"):
                self._send({"kind": "camera", "camera": shot.camera.model_dump(mode="json")})
                if self._camera_move is move:  # handed over once: it is shown until it comes back saved
                    self._camera_move = {**move, "end": False}
        self._shot = shot
        looks = [(look.name, lets_light_through(look)) for look in shot.looks]
        touched = [[(layer.on, sorted(layer.channels)) for layer in look.layers] for look in shot.looks]
        placed = (shot.objects, shot.locators, shot.lights, looks, touched, [g.name for g in shot.light_groups])
        if self._scene is None or self._scene_for != placed:
            self._scene = Scene(shot, self.files, self._scene)
            self._scene_for = placed
        self._accumulated = None

    def _moved(self, shot: Shot, move: dict[str, Any]) -> Any:
        across, down = float(move.get("across", 0)), float(move.get("down", 0))
        width, height = self._size
        if move.get("move") == "pan":
            return pan(shot.camera, across, down, width / height)
        if move.get("move") == "dolly":
            return dolly(shot.camera, down)
        if move.get("move") == "fly":
            return fly(shot.camera, across, down)
        return orbit(shot.camera, across, down)

    def _work(self, wanted: Callable[[], bool]) -> None:
        assert self._shot is not None
        if self._showing.kind == "picture":
            self._work_picture(wanted)
        else:
            self._work_signal(wanted)

    def _work_picture(self, wanted: Callable[[], bool]) -> None:
        assert self._shot is not None and self._scene is not None
        shot, region = self._shot, self._viewing.region
        context = self.picture.begin(shot, self._scene, self._size, self._frame, region, wanted)
        if self._stage == 0:
            self._show(self.picture.first(shot, context), context)
            self._stage = 1
        elif self._stage == 1:
            self._work_reading()
            self._work_bench()
            self._stage = 2
        elif self._stage == 2:
            self._work_sheet(wanted)
            self._work_advice(wanted)
            self._stage = 4 if self.picture.begun else 3
        elif self._viewing.paused:
            self._stage = -1
        elif self._stage == 3:
            self._show(self.picture.half(shot, context), context)
            self._stage = 4
        else:
            shown = self.picture.more(shot, context, region)
            if shown is not None:
                self._show(shown, context)
            self._stage = -1 if self.picture.finished(shot) else 4

    def _work_signal(self, wanted: Callable[[], bool]) -> None:
        assert self._shot is not None and self._scene is not None
        showing = self._showing
        plan, kind = signal_plan(self._shot, showing, self._frame)
        look = self._look_index(showing.look)
        width, height = self._size
        if self._stage == 0 or self._stage >= 3:
            sample = 0 if self._stage == 0 else self._stage - 2
            if sample == 0:
                points = self._points("stage", width, height)
            else:
                points = self._see(make_view(self._shot.camera, width, height), sample, wanted)
            if not wanted():
                raise Interrupted
            value = points.batch(look).values(plan, self.pool)["value"]
            if kind == "warp":
                picture = grid_picture(points, look, value)
            else:
                if sample == 0 or self._span is None:
                    self._span = bounded(value) if showing.kind == "mask" else range_of(value)
                picture = paint(points, look, value, kind == "colour", self._span, showing.style)
            self._span_shown = kind == "number"
            if self._accumulated is None or sample == 0:
                self._accumulated = np.zeros(picture.shape, np.float32)
            self._accumulated += picture
            if sample in (0, 3, SMOOTH_EDGES - 1):
                shown = np.rint(self._accumulated / (sample + 1)).astype(np.uint8)
                self._send_picture(shown, "full", sample + 1)
            self._stage = 1 if self._stage == 0 else (-1 if sample >= SMOOTH_EDGES - 1 else self._stage + 1)
        elif self._stage == 1:
            self._work_reading()
            self._work_bench()
            self._stage = 2
        else:
            self._work_sheet(wanted)
            self._work_advice(wanted)
            self._stage = 3

    def _work_advice(self, wanted: Callable[[], bool]) -> None:
        """Look the shot over by the rules of the craft, once for each state of it."""
        assert self._shot is not None and self._scene is not None
        shot = self._shot
        # Rules may look at anything in the document, so any edit asks them anew.
        state = (shot, self._scene.key, self._frame)
        if state == self._advised:
            return

        def check() -> None:
            if not wanted():
                raise Interrupted

        found = advise(
            gather(shot, self._scene, self._points("advice", *SMALL, SMALL[0] / shot.resolution[0]), self._frame, check)
        )
        self._advised = state
        items = [asdict(each) for each in found]
        self._send({"kind": "advice", "items": items})

    def _work_reading(self) -> None:
        """Read the point that is pinned, or the one just asked for."""
        pick_at = self._pick
        if pick_at is None or self._shot is None or self._scene is None:
            return
        if pick_at.get("across") is None:
            self._pick = None
            self._send({"kind": "reading", "reading": None})
            return
        view = make_view(self._shot.camera, *self._size)
        if self._picked is None:
            self._picked = pick(self._scene, view, float(pick_at["across"]), float(pick_at["down"]), False)
        found = self._picked and read_point(self._shot, self._scene, view, self._picked, self._frame)
        if not found:
            self._send({"kind": "reading", "reading": None, "missed": True})
            return
        x, y, depth = view.project(found.position)
        self._send(
            {
                "kind": "reading",
                "reading": {
                    **as_json(found.reading),
                    "object": found.object,
                    "look": found.look,
                    "position": [round(float(each), 4) for each in found.position],
                    "at": [x, y] if depth > 0 else None,
                    "depth": round(depth, 4),
                    "light": self._light_at(x, y),
                },
            }
        )

    def _light_at(self, x: float, y: float) -> list[float] | None:
        """Scene-linear light of the picture last shown, at a place 0…1 from its top left; nothing outside it."""
        picture = self._looked_at
        if picture is None or not (0 <= x < 1 and 0 <= y < 1):
            return None
        height, width, _ = picture.shape
        return [float(f"{value:.4g}") for value in picture[int(y * height), int(x * width)]]

    def _work_bench(self) -> None:
        """Measure the recipe that lies open."""
        bench = self._bench
        if not bench or self._shot is None:
            return
        look = self._look_index(str(bench.get("look", "")))
        place = tuple(str(part) for part in bench.get("place", []))
        try:
            recipe, path = find_recipe(self._shot, str(bench.get("look", "")), place)
        except DocumentError:
            return
        if recipe is None:
            return
        points = self._points("small", *SMALL)
        steps = measure_recipe(self._shot, points, look, recipe, path, self._frame)
        self._send({"kind": "bench", "place": list(place), "look": bench.get("look", ""), "steps": steps})

    def _work_sheet(self, wanted: Callable[[], bool]) -> None:
        """Draw the cells of the look sheet that changed."""
        name = str(self._bench.get("look", ""))
        if self._shot is None or not any(look.name == name for look in self._shot.looks):
            return
        index = self._look_index(name)
        look = self._shot.looks[index]
        points = self._points("small", *SMALL)
        stamp = f"{self._scene.key if self._scene else ''}{points.view.key().hex()}{name}"
        cells = sheet_cells(self._shot, look, self._frame)
        drawn = {}
        for cell, (key, planner, colour) in cells.items():
            if self._sent_cells.get(cell) == stamp + key:
                continue
            if not wanted():
                raise Interrupted
            drawn[cell] = draw_cell(points, index, cell, planner, colour)
            self._sent_cells[cell] = stamp + key
        gone = [cell for cell in self._sent_cells if cell not in cells]
        for cell in gone:
            del self._sent_cells[cell]
        if drawn or gone:
            self._send({"kind": "sheet", "look": name, "cells": drawn, "gone": gone})

    def _look_index(self, name: str) -> int:
        assert self._shot is not None
        names = [look.name for look in self._shot.looks]
        return names.index(name) if name in names else 0

    def _points(self, use: str, width: int, height: int, detail: float = 1.0) -> GBuffer:
        assert self._shot is not None and self._scene is not None
        view = make_view(self._shot.camera, width, height)
        key = (
            self._scene.key,
            view.key(),
            detail,
            self._shot.seed,
            [(look.name, lets_light_through(look)) for look in self._shot.looks],
            [o.look for o in self._shot.objects],
            [p for o in self._shot.objects for p in o.parts],
        )
        kept = self._seen.get(use)
        if kept is None or kept[0] != key:
            kept = (key, self._see(view, detail=detail))
            self._seen[use] = kept
        return kept[1]

    def _see(
        self, view: View, sample: int = 0, wanted: Callable[[], bool] = lambda: True, detail: float = 1.0
    ) -> GBuffer:
        assert self._shot is not None and self._scene is not None
        clear = frozenset(index for index, look in enumerate(self._shot.looks) if lets_light_through(look))

        def check() -> None:
            if not wanted():
                raise Interrupted

        return GBuffer(self._scene, view, self._shot.seed, sample, clear, self.pool, check, detail)

    def _show(self, shown: StageImage, context: RenderContext) -> None:
        assert self._shot is not None
        picture = bloomed(shown.picture, self._shot.bloom, shown.rough)
        exposure = self._shot.camera.exposure
        seen = self._viewing.bytes(picture, exposure, context.check)
        self._looked_at = picture
        if shown.kind == "full" and not shown.rough:
            plain = DisplaySettings()
            kept = seen if self._viewing.as_rendered else plain.bytes(picture, exposure, context.check)
            self._shown, self._shown_revision, self._shown_samples = kept, self._revision, shown.samples
        self._send_picture(seen, shown.kind, shown.samples, shown.rough)

    def _send_picture(self, picture: np.ndarray, stage: str, samples: int, rough: bool = False) -> None:
        assert self._shot is not None
        view: View = make_view(self._shot.camera, *self._size)
        left = self.picture.seconds_left(self._shot) if self._showing.kind == "picture" else None
        head = {
            "kind": "picture",
            "stage": stage,
            "samples": samples,
            "seconds": round(self.picture.seconds, 3),
            "left": None if left is None else round(left, 1),
            "finished": self._showing.kind == "picture" and self.picture.finished(self._shot),
            "width": picture.shape[1],
            "height": picture.shape[0],
            "show": self._showing.json(),
            "range": asdict(self._span)
            if self._span and self._span_shown and self._showing.kind != "picture"
            else None,
            "scale": scale_strip(self._span, self._showing.style)
            if self._span and self._span_shown and self._showing.kind != "picture"
            else "",
            "handles": locator_handles(self._shot, view),
        }
        self._send(head, jpeg(picture, rough=rough))

    def _send(self, head: dict[str, Any], body: bytes = b"") -> None:
        self._emit({**head, "session": self.name, "serial": self.serial, "revision": self._revision}, body)
