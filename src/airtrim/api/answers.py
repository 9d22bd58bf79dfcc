"""Answers that are made outside of the routes."""

from fastapi.responses import JSONResponse

from airtrim.api.models.work import Problem


def sentence(text: str, status: int, headers: dict[str, str] | None = None) -> JSONResponse:
    """A problem told in a sentence; what cannot be sent as text is left out of it."""
    plain = text.encode("utf-8", "replace").decode()
    return JSONResponse(Problem(sentence=plain).model_dump(), status_code=status, headers=headers)
