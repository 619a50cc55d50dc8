"""Taking wetness apart: the one channel becomes a layer that says in coat and darkening what it meant.

Exact over a ground without a coat of its own, which is what most stones are; from there on each part can be changed.
"""

from typing import Any

from texallon.core.document.problem import DocumentError, Problem
from texallon.core.shade.wetness import FILM_ROUGHNESS, WATER

Json = dict[str, Any]

NAME = "film of water"


def expand_wetness(document: Json, look: str, layer: str) -> list[Json]:
    """The JSON Patch for one layer of a look; raises `DocumentError` where there is no such layer or it has no wetness.

    Parameters
    ----------
    document : Json
        Parsed JSON of a shot.
    look : str
        The look's name.
    layer : str
        The layer's name.
    """
    number, found = _named(document["looks"], look, "look")
    index, row = _named(found["layers"], layer, "layer")
    if "wetness" not in row.get("channels", {}):
        raise DocumentError([Problem("/layer", f"“{layer}” has no wetness")])
    wetness = row["channels"]["wetness"]["recipe"]
    names = {each["name"] for each in found["layers"]}
    name = next(each for each in (NAME, *(f"{NAME} {n}" for n in range(2, 70))) if each not in names)
    here = f"/looks/{number}/layers/{index}"
    film = {
        "name": name,
        "on": row.get("on", True),
        "opacity": row.get("opacity", 1.0),
        "where": _where(row.get("where"), wetness),
        "channels": {
            "coat_weight": _value(1.0),
            "coat_ior": _value(round(float(WATER), 4)),
            "coat_roughness": _value(round(float(FILM_ROUGHNESS), 4)),
            "coat_darkening": _value(1.0),
            "coat_color": _value([1.0, 1.0, 1.0]),
        },
    }
    return [
        {"op": "remove", "path": f"{here}/channels/wetness"},
        {"op": "add", "path": f"/looks/{number}/layers/{index + 1}", "value": film},
    ]


def _named(rows: list[Json], name: str, kind: str) -> tuple[int, Json]:
    for number, row in enumerate(rows):
        if row["name"] == name:
            return number, row
    raise DocumentError([Problem(f"/{kind}", f"there is no {kind} “{name}”")])


def _value(value: Any) -> Json:
    return {"recipe": {"steps": [{"op": "constant", "params": {"value": value}}]}}


def _where(mask: Json | None, wetness: Json) -> Json | None:
    """The layer's mask times the wetness; either alone where the other is 1 everywhere."""
    steps = wetness["steps"]
    everywhere = len(steps) == 1 and steps[0]["op"] == "constant" and steps[0].get("params", {}).get("value") == 1
    if mask is None:
        return None if everywhere else wetness
    if everywhere:
        return mask
    return {"steps": [*mask["steps"], {"op": "multiply", "params": {"by": wetness}}]}
