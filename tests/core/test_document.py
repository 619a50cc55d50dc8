"""Documents: what is refused, where the error points, and patches."""

import json
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from tests.builders import document, look
from texallon.core.document import DocumentError, apply_patch, parse_json, pointer, read_shot, shot_json
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.schema import shot_schema


def pointers(data: Any) -> list[str]:
    with pytest.raises(DocumentError) as caught:
        read_shot(data)
    return [problem.pointer for problem in caught.value.problems]


@pytest.mark.parametrize(
    ("members", "where"),
    [
        ({"lookss": []}, "/lookss"),
        ({"looks": []}, "/looks"),
        ({"looks": [look("a"), look("a")]}, "/looks/1/name"),
        ({"camera": {"position": [0, float("nan"), 0]}}, "/camera/position/1"),
        ({"camera": {"position": [0, 0, 0], "target": [0, 0, 0]}}, "/camera/target"),
        ({"camera": {"focal_length": -1}}, "/camera/focal_length"),
        ({"resolution": [10, 100]}, "/resolution/0"),
        ({"objects": [{"name": "o", "geometry": {"file": "../secret"}, "look": "plain"}]}, "/objects/0/geometry/file"),
        ({"objects": [{"name": "o", "geometry": {"file": "/etc/passwd"}, "look": "plain"}]}, "/objects/0/geometry/file"),
        ({"objects": [{"name": "o", "geometry": {"file": "a.ply"}, "look": "plane"}]}, "/objects/0/look"),
        ({"objects": [{"name": "o", "geometry": {"file": "a.ply"}, "look": "plain", "follows": "w"}]}, "/objects/0/follows"),
        ({"looks": [{"name": "l", "layers": [{"name": "a", "opacity": 2}]}]}, "/looks/0/layers/0/opacity"),
    ],
)  # fmt: skip
def test_an_error_points_at_the_offending_value(members: dict[str, Any], where: str) -> None:
    assert pointers(document(**members)) == [where]


def test_the_nearest_name_is_offered() -> None:
    wrong = document(objects=[{"name": "o", "geometry": {"file": "a.ply"}, "look": "plian"}])
    with pytest.raises(DocumentError, match="did you mean “plain”"):
        read_shot(wrong)


def test_the_form_of_a_document_is_checked_first() -> None:
    assert pointers({"name": "x"}) == ["/schema"]
    assert pointers(document(schema=99)) == ["/schema"]
    assert pointers([1, 2]) == [""]


def test_json_with_nan_or_without_end_is_refused() -> None:
    for text in ('{"a": NaN}', "{", "[" * 100_000):
        with pytest.raises(DocumentError):
            parse_json(text)


def test_a_document_survives_being_written_and_read() -> None:
    once = read_shot(document())
    assert read_shot(json.loads(json.dumps(shot_json(once)))) == once


def test_pointers_escape_as_rfc_6901_says() -> None:
    # RFC 6901, section 3: ~ is written ~0 and / is written ~1.
    assert pointer("looks", 0, "a/b", "m~n") == "/looks/0/a~1b/m~0n"


def test_a_patch_leaves_the_original_alone() -> None:
    # The example of RFC 6902, appendix A.1 and A.6.
    original = {"foo": {"bar": "baz", "waldo": "fred"}, "qux": {"corge": "grault"}}
    moved = apply_patch(original, [{"op": "move", "from": "/foo/waldo", "path": "/qux/thud"}])
    assert moved == {"foo": {"bar": "baz"}, "qux": {"corge": "grault", "thud": "fred"}}
    assert original["foo"] == {"bar": "baz", "waldo": "fred"}


@pytest.mark.parametrize(
    "patch", [[{"op": "replace", "path": "/nowhere/1", "value": 1}], [{"op": "fly", "path": "/name"}], {}, [[]], [{}]]
)
def test_a_patch_that_does_not_apply_is_refused(patch: Any) -> None:
    with pytest.raises(DocumentError):
        apply_patch(document(), patch)


def test_the_demo_meets_its_own_json_schema(demo_folder: Path) -> None:
    # JSON Schema draft 2020-12, by the reference validator.
    schema = shot_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    shot = json.loads((demo_folder / "GH010.json").read_text())
    jsonschema.validate(shot, schema)
    assert check_shot(read_shot(shot)) == []
    shot["looks"][0]["layers"][1]["where"]["steps"][1]["params"]["ease"] = "bouncy"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(shot, schema)
