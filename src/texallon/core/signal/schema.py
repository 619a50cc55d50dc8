"""The JSON Schema of a shot, with the parameters of every op."""

from typing import Any

from texallon.core.document.channels import CHANNELS
from texallon.core.document.number_ref import NumberRef
from texallon.core.document.shot import Shot
from texallon.core.ops.op import Op
from texallon.core.ops.registry import ops


def shot_schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) that every valid shot meets."""
    schema = Shot.model_json_schema(by_alias=True)
    definitions = schema["$defs"]
    steps = []
    for name, kind in ops().items():
        own = kind.model_json_schema(ref_template="#/$defs/{model}")
        own_definitions = own.pop("$defs", {})
        definitions.update(own_definitions)
        definitions.update({key: _or_named(each) for key, each in own_definitions.items() if key == "Stop"})
        own["properties"] = {key: _or_varied(kind, key, each) for key, each in own["properties"].items()}
        own["title"] = f"{name} parameters"
        definitions[f"op {name}"] = own
        steps.append(
            {
                "if": {"properties": {"op": {"const": name}}},
                "then": {"properties": {"params": {"$ref": f"#/$defs/op {name}"}}},
            }
        )
    definitions["NumberRef"] = NumberRef.model_json_schema()
    definitions["Step"]["properties"]["op"]["enum"] = list(ops())
    definitions["Step"]["allOf"] = steps
    channels = definitions["Layer"]["properties"]["channels"]
    channels["propertyNames"] = {"enum": [channel.name for channel in CHANNELS]}
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Texallon shot"
    return schema


NAMED = {"$ref": "#/$defs/NumberRef"}


def _or_varied(kind: type[Op], name: str, schema: dict[str, Any]) -> dict[str, Any]:
    """A parameter's schema, where also a signal or a recipe may stand."""
    made: dict[str, Any] = _or_named(schema)
    if name not in kind.can_vary:
        return made
    return {**made, "anyOf": [*made["anyOf"], {"$ref": "#/$defs/SignalRef"}, {"$ref": "#/$defs/Recipe"}]}


def _or_named(schema: Any) -> Any:
    """A schema in which a named number may stand wherever a number may."""
    if isinstance(schema, list):
        return [_or_named(each) for each in schema]
    if not isinstance(schema, dict):
        return schema
    if schema.get("type") == "number":
        about = {key: value for key, value in schema.items() if key in ("description", "default", "title", "unit")}
        return {**about, "anyOf": [{k: v for k, v in schema.items() if k not in about}, NAMED]}
    return {key: _or_named(value) if key not in ("default", "enum") else value for key, value in schema.items()}
