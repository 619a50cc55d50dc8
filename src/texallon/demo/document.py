"""Short ways to write the demo's documents: steps, values, layers, looks."""

from typing import Any

from texallon.core.document.shot import SCHEMA

Json = dict[str, Any]
Step = tuple[str, Json]


def steps(*given: Step) -> Json:
    """A recipe from pairs of an op and its parameters."""
    return {"steps": [{"op": op, "params": params} for op, params in given]}


def value(number: Any, blend: str = "replace") -> Json:
    """A channel with the same value everywhere."""
    return {"recipe": steps(("constant", {"value": number})), "blend": blend}


def made(*given: Step, blend: str = "replace") -> Json:
    """A channel that a recipe makes."""
    return {"recipe": steps(*given), "blend": blend}


def layer(name: str, where: Json | None = None, **channels: Json) -> Json:
    """A layer; its channels by name."""
    return {"name": name, "where": where, "channels": channels}


def carrying(name: str, carried: str, where: Json | None = None) -> Json:
    """A layer that carries another look."""
    return {"name": name, "where": where, "look": {"look": carried}}


def look(name: str, *layers: Json) -> Json:
    """A look, its lowest layer first."""
    return {"name": name, "layers": list(layers)}


def signal(name: str, *given: Step) -> Json:
    """A shared signal."""
    return {"name": name, "recipe": steps(*given)}


def stops(*pairs: tuple[float, Any]) -> list[Json]:
    """The stops of a ramp."""
    return [{"at": at, "value": number} for at, number in pairs]


class Demo:
    """The demo's files by path, with their digests, for documents to refer to."""

    def __init__(self, digests: dict[str, str]) -> None:
        self.digests = digests

    def ref(self, path: str) -> Json:
        return {"file": path, "sha256": self.digests[path]}

    def item(self, name: str, look_name: str, **more: Any) -> Json:
        """An object whose geometry is called as it is."""
        geometry = more.pop("geometry", name)
        return {"name": name, "geometry": self.ref(f"geometry/{geometry}.glb"), "look": look_name, **more}

    def sky(self, intensity: float = 1.0, rotation: float = 0.0) -> Json:
        return {"image": self.ref("light/night-sky.exr"), "rotation": rotation, "intensity": intensity}


def lantern(
    position: tuple[float, float, float], target: tuple[float, float, float], power: float = 30.0, size: float = 0.34
) -> Json:
    """The caretaker's lantern: a warm square that the camera does not see."""
    return {
        "name": "lantern",
        "position": list(position),
        "target": list(target),
        "width": size,
        "height": size,
        "colour": [1.0, 0.52, 0.2],
        "power": power,
        "visible": False,
    }


def shot(name: str, title: str, **members: Any) -> Json:
    """A shot of the demo's length and size."""
    return {
        "schema": SCHEMA,
        "name": name,
        "title": title,
        "frames": {"first": 1, "last": 48, "rate": 24},
        "resolution": [1280, 720],
        **members,
    }
