"""The point that is read: every value along the way to what is seen there."""

from typing import Any

from texallon.core.derived import Cost, Given, derived
from texallon.core.document.resolved import ResolvedShot
from texallon.core.render.camera.pick import Picked, PointReading, pick, read_point
from texallon.core.render.camera.view import View
from texallon.core.render.scene.scene import Scene
from texallon.core.render.surface.relief import Relief
from texallon.core.render.volume_reading import PickedInVolume, pick_on_cut, read_in_volume
from texallon.core.signal.reading import as_json
from texallon.engine.schedule import Importance
from texallon.engine.work import LastShown, Work
from texallon.messages.from_page import ReadMessage
from texallon.messages.to_page import ReadingMessage


@derived("reading", cost=Cost.INSTANT)
def reading_of_point(
    shot: ResolvedShot, scene: Scene, view: View, picked: Picked, relief: Relief
) -> PointReading | None:
    """Every value at a picked point; nothing where the point is gone."""
    return read_point(shot, scene, view, picked, relief)


class Reading:
    """Keeps the point that was picked, and reads it anew in every state."""

    name = "reading"
    cost, importance = Cost.INSTANT, Importance.ON_SCREEN

    def __init__(self, shown: LastShown) -> None:
        self._shown = shown
        self._request: ReadMessage | None = None
        self._picked: Picked | PickedInVolume | None = None
        self._cleared: ReadMessage | None = None

    def pending(self, work: Work) -> bool:
        request = work.window.read
        return request is not None and not (request.across is None and self._cleared is request)

    def step(self, work: Work) -> None:
        request = work.window.read
        work.done.add(self.name)
        if request is None:
            return
        if request.across is None or request.down is None:
            self._cleared, self._picked = request, None
            work.send(ReadingMessage, {"reading": None}, b"")
            return
        view = work.graph.view(*work.window.size)
        scene = work.graph.scene
        if self._request is not request:
            self._request, self._picked = request, None
        if self._picked is None:
            self._picked = _first(work, view, request.across, request.down)
        if isinstance(self._picked, PickedInVolume):
            found = read_in_volume(work.graph.filled, view, self._picked)
        else:
            found = self._picked and work.store.value(
                reading_of_point.of(work.shot, Given(scene, scene.content_key), view, self._picked, work.graph.relief)
            )
        if not found:
            work.send(ReadingMessage, {"reading": None, "missed": True}, b"")
            return
        x, y, depth = view.project(found.position)
        reading: dict[str, Any] = {
            **as_json(found.reading),
            "object": found.object,
            "part": found.part,
            "look": found.look,
            "position": [round(float(each), 4) for each in found.position],
            "normal": [round(float(each), 5) for each in found.normal],
            "at": (x, y) if depth > 0 else None,
            "depth": round(depth, 4),
            "light": self._light_at(x, y),
        }
        work.send(ReadingMessage, {"reading": reading}, b"")

    def _light_at(self, x: float, y: float) -> list[float] | None:
        """Scene-linear light of the picture last shown, at a place 0…1 from its top left; nothing outside it."""
        picture = self._shown.light
        if picture is None or not (0 <= x < 1 and 0 <= y < 1):
            return None
        height, width, _ = picture.shape
        return [float(f"{value:.4g}") for value in picture[int(y * height), int(x * width)]]


def _first(work: Work, view: View, across: float, down: float) -> Picked | PickedInVolume | None:
    """What lies under a place of the picture: the cut through a volume, or a surface where that is nearer."""
    graph = work.graph
    picked = pick(graph.scene, view, across, down, False)
    cut = pick_on_cut(graph.filled, view, work.window.cut, across, down)
    if picked is None or cut is None:
        return cut or picked
    within, surface = read_in_volume(graph.filled, view, cut), read_point(graph.shot, graph.scene, view, picked)
    return cut if within and surface and within.nearer(surface, view) else picked
