"""Looking through all episodes on the shelf."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from airtrim.api.state import Context
from airtrim.services.searching import search

router = APIRouter(prefix="/api", tags=["shelf"])


class FoundView(BaseModel):
    """An episode whose title holds what was looked for (``at`` is None), or a place, in frames,
    where it is said, with what stands around it."""

    episode_id: int
    title: str
    show: str
    at: int | None = None
    before: str = ""
    said: str = ""
    after: str = ""


@router.get("/search")
def look(
    context: Context, text: Annotated[str, Query(min_length=2, max_length=200)]
) -> list[FoundView]:
    """Titles that hold all of its words, and places where they are said one after another."""
    return [
        FoundView(episode_id=one.episode_id, title=one.title, show=one.show)
        if one.hit is None
        else FoundView(
            episode_id=one.episode_id,
            title=one.title,
            show=one.show,
            at=one.hit.start,
            before=one.hit.before,
            said=one.hit.text,
            after=one.hit.after,
        )
        for one in search(context.store, text)
    ]
