"""What is wrong with a value that was sent, in plain words."""

from collections.abc import Mapping
from typing import Any

_WRONG = {
    "missing": "is missing",
    "extra_forbidden": "is not known here",
    "json_invalid": "is not JSON",
    "greater_than": "must be more than {gt}",
    "greater_than_equal": "must be at least {ge}",
    "less_than": "must be less than {lt}",
    "less_than_equal": "must be at most {le}",
    "string_too_long": "must be at most {max_length} characters long",
    "string_too_short": "must be at least {min_length} characters long",
    "too_long": "must have at most {max_length} parts",
    "too_short": "must have at least {min_length} parts",
    "literal_error": "must be one of {expected}",
    "union_tag_invalid": "is of no kind that is known here",
    "union_tag_not_found": "does not say of which kind it is",
    "enum": "must be one of {expected}",
    "string_pattern_mismatch": "is not written as it has to be",
    "finite_number": "must be a number",
}
_KINDS = {
    "int": "a whole number",
    "float": "a number",
    "bool": "true or false",
    "string": "text",
    "list": "a list",
    "tuple": "a list",
    "dict": "an object",
    "model_attributes": "an object",
}
_WHERE = ("body", "query", "path", "header")


def misunderstood(error: Mapping[str, Any]) -> str:
    """One of Pydantic's errors as a sentence; its own words where there are none here.

    >>> misunderstood({"type": "greater_than", "loc": ("query", "frames"), "ctx": {"gt": 0}})
    'That was not understood: frames must be more than 0.'
    """
    loc = error["loc"]
    place = ".".join(map(str, loc[1:] if loc and loc[0] in _WHERE else loc))[:200]
    kind, _, how = str(error["type"]).partition("_")
    if error["type"] in _WRONG:
        wrong = _WRONG[error["type"]].format_map(error.get("ctx", {}))
    elif kind in _KINDS and how in ("parsing", "type", "from_float", "size"):
        wrong = f"must be {_KINDS[kind]}"
    elif error["type"] == "value_error":
        wrong = f"is not right: {error['ctx']['error']}"
    else:
        return f"That was not understood: {place}: {error['msg'][:500]}."
    return f"That was not understood: {place or 'what was sent'} {wrong[:500].rstrip('.')}."
