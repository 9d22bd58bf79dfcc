"""Handing files over, and publishing what was handed over."""

from collections.abc import Sequence

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.handing.over import Patience, due, publish, send
from airtrim.store.store import Store
from airtrim.store.tables import HandOverRow


class HandOverParams(BaseModel):
    """What is to go, by the id of its row."""

    hand_over: str


def _patience(work: Work) -> Patience:
    return Patience(first_wait_s=work.settings.retry_wait_s)


def _send(work: Work, params: HandOverParams) -> Result:
    row = send(work.store, params.hand_over, work.progress, _patience(work))
    where = work.store.destination(row.destination_id).name
    as_what = "is public" if row.state == "published" else "is a draft"
    return Result(notice=f"It arrived at {where} as it was sent, and {as_what} there.")


def _publish(work: Work, params: HandOverParams) -> Result:
    row = publish(work.store, params.hand_over, work.progress, _patience(work))
    where = work.store.any_destination(row.destination_id).name
    if row.state == "scheduled":
        return Result(notice=f"{where} cannot be reached. Air Trim tries again by itself.")
    return Result(notice=f"It is public at {where}.")


def _due(store: Store) -> list[str]:
    """Jobs for what is to be published by now; each only once."""
    return [
        PUBLISH.queued(
            store,
            row.episode_id,
            HandOverParams(hand_over=row.id),
            f"publish-{row.id[:20]}-{_second(row)}-{row.attempts}",
        ).id
        for row in due(store)
    ]


def _second(row: HandOverRow) -> int:
    return int(row.publish_at.timestamp()) if row.publish_at else 0


def _not_sent(store: Store, unended: Sequence[HandOverParams]) -> None:
    store.free_hand_overs("sending", {one.hand_over for one in unended}, "failed")


def _not_published(store: Store, unended: Sequence[HandOverParams]) -> None:
    store.free_hand_overs("publishing", {one.hand_over for one in unended}, "draft")


HAND_OVER = Kind(
    "hand_over",
    "Handing over",
    HandOverParams,
    _send,
    changes=("hand_overs",),
    let_go=_not_sent,
)
PUBLISH = Kind(
    "publish",
    "Publishing",
    HandOverParams,
    _publish,
    changes=("hand_overs",),
    let_go=_not_published,
    on_look=_due,
)
