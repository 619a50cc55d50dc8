"""The JSON Schema of a shot, with the parameters of every op."""

from typing import Any

from texallon.core.document.channels import CHANNELS
from texallon.core.document.shot import Shot
from texallon.core.ops.registry import ops


def shot_schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) that every valid shot meets."""
    schema = Shot.model_json_schema(by_alias=True)
    definitions = schema["$defs"]
    steps = []
    for name, kind in ops().items():
        own = kind.model_json_schema(ref_template="#/$defs/{model}")
        definitions.update(own.pop("$defs", {}))
        own["title"] = f"{name} parameters"
        definitions[f"op {name}"] = own
        steps.append(
            {
                "if": {"properties": {"op": {"const": name}}},
                "then": {"properties": {"params": {"$ref": f"#/$defs/op {name}"}}},
            }
        )
    definitions["Step"]["properties"]["op"]["enum"] = list(ops())
    definitions["Step"]["allOf"] = steps
    channels = definitions["Layer"]["properties"]["channels"]
    channels["propertyNames"] = {"enum": [channel.name for channel in CHANNELS]}
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Texallon shot"
    return schema
