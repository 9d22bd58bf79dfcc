"""The description of the API, from which the browser's client is made."""

from collections.abc import Iterator
from typing import Any

from fastapi import FastAPI

_SCHEMAS = "#/components/schemas/"


def describe_whole(app: FastAPI) -> None:
    """Have the application's description tell that an answer holds all of its fields: one with a
    default may be left out of a request, but never is of an answer."""
    plain = app.openapi

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            described = plain()
            schemas = described["components"]["schemas"]
            for name in _answered(described, schemas):
                if properties := schemas[name].get("properties"):
                    schemas[name]["required"] = list(properties)
        return app.openapi_schema or described

    app.openapi = openapi  # type: ignore[method-assign]


def _answered(described: dict[str, Any], schemas: dict[str, Any]) -> set[str]:
    """The schemas that any answer is made of."""
    waiting = {
        name
        for operations in described["paths"].values()
        for operation in operations.values()
        for name in _named(operation["responses"])
    }
    found: set[str] = set()
    while waiting:
        name = waiting.pop()
        found.add(name)
        waiting |= set(_named(schemas[name])) - found
    return found


def _named(part: Any) -> Iterator[str]:
    """The schemas that a part of the description refers to."""
    if isinstance(part, dict):
        if str(part.get("$ref", "")).startswith(_SCHEMAS):
            yield part["$ref"].removeprefix(_SCHEMAS)
        for value in part.values():
            yield from _named(value)
    elif isinstance(part, list):
        for value in part:
            yield from _named(value)
