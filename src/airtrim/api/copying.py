"""Copies of episodes, by a press or by a link."""

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel

from airtrim.api.fields import Id
from airtrim.api.models.episode import RevisionRequest
from airtrim.api.models.shelf import EpisodeOnShelf
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context
from airtrim.jobs.kinds.parting import APART, ApartParams
from airtrim.services.copying import copied
from airtrim.store.copying import CopyLinks
from airtrim.store.tables import CopyLinkRow

router = APIRouter(prefix="/api", tags=["copying"])


class CopyLink(BaseModel):
    """A link that makes a copy, and its path."""

    token: str
    path: str
    created_at: datetime

    @classmethod
    def of(cls, row: CopyLinkRow) -> "CopyLink":
        """As the store has it."""
        return cls(token=row.token, path=f"/copy/{row.token}", created_at=row.created_at)


class CopyOffered(BaseModel):
    """What a link makes a copy of."""

    show: str
    episode: str


@router.post("/episodes/{episode_id}/copy", status_code=201)
def copy(context: Context, episode_id: Id) -> EpisodeOnShelf:
    """Make a copy of an episode, with its whole history."""
    return EpisodeOnShelf.of(copied(context.store, episode_id))


@router.post("/episodes/{episode_id}/apart", status_code=202)
def apart(context: Context, episode_id: Id, request: RevisionRequest) -> JobView:
    """Make an episode of each part in the background; this one stays whole."""
    context.store.timeline(episode_id, request.revision)
    params = ApartParams(revision=request.revision)
    return job_view(context.start(APART, episode_id, params))


@router.get("/episodes/{episode_id}/copy-links")
def links(context: Context, episode_id: Id) -> list[CopyLink]:
    """The links that make a copy of it."""
    return [CopyLink.of(row) for row in CopyLinks(context.store).of(episode_id)]


@router.post("/episodes/{episode_id}/copy-links", status_code=201)
def make_link(context: Context, episode_id: Id) -> CopyLink:
    """Make a link that gives whoever opens it on this server a copy of their own."""
    return CopyLink.of(CopyLinks(context.store).make(episode_id))


@router.delete("/copy-links/{token}", status_code=204)
def withdraw(context: Context, token: str) -> None:
    """Let a link lead nowhere any more; copies that were made stay."""
    CopyLinks(context.store).withdraw(token)


@router.post("/copy-links/{token}/back", status_code=204)
def bring_back(context: Context, token: str) -> None:
    """Let it lead to its episode again."""
    CopyLinks(context.store).withdraw(token, back=True)


@router.get("/copies/{token}")
def offered(context: Context, token: str) -> CopyOffered:
    """What a link leads to. 410 where it leads nowhere any more."""
    episode, show = context.store.episode(CopyLinks(context.store).led_to(token))
    return CopyOffered(show=show.name, episode=episode.title)


@router.post("/copies/{token}", status_code=201)
def take_copy(context: Context, token: str) -> EpisodeOnShelf:
    """Make the copy."""
    return EpisodeOnShelf.of(copied(context.store, CopyLinks(context.store).led_to(token)))
