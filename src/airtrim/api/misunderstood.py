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
    "string_pattern_mismatch": "is not written as it has to be",
    "finite_number": "must be a number",
}
# By how Pydantic's names of errors begin: int_type, int_parsing, int_from_float and so on.
_KINDS = {
    "int": "a whole number",
    "float": "a number",
    "bool": "true or false",
    "string": "text",
    "list": "a list",
    "tuple": "a list",
    "dict": "an object",
    "model": "an object",
}


def misunderstood(error: Mapping[str, Any]) -> str:
    """One of Pydantic's errors as a sentence; its own words where there are none here.

    >>> misunderstood({"type": "greater_than", "loc": ("query", "frames"), "ctx": {"gt": 0}})
    'That was not understood: frames must be more than 0.'
    """
    # It begins with where it came from; of what is no JSON it counts characters.
    names = () if error["type"] == "json_invalid" else error["loc"][1:]
    place = ".".join(map(str, names))[:200]
    kind = error["type"].partition("_")[0]
    if error["type"] in _WRONG:
        wrong = " " + _WRONG[error["type"]].format_map(error.get("ctx", {}))
    elif kind in _KINDS:
        wrong = f" must be {_KINDS[kind]}"
    else:
        wrong = f": {error['msg']}"
    return f"That was not understood: {place or 'what was sent'}{wrong[:500]}."
