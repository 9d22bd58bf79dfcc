"""The one look at the database that all browsers hear of."""

import asyncio
import json
from collections.abc import AsyncIterator
from pathlib import Path

import pytest
from sqlalchemy.exc import OperationalError

from airtrim.api.watching import Event, Watching
from airtrim.store.store import Store

SOON_S = 60


@pytest.fixture
def store(tmp_path: Path) -> Store:
    return Store(tmp_path)


def new_episode(store: Store) -> int:
    episode = store.add_episode(store.add_show("Slow Crossing").id, "The six o’clock boat")
    assert episode.id
    return episode.id


async def until_told(events: AsyncIterator[Event], job: str) -> list[Event]:
    """What is told until a job is."""
    told = []
    async with asyncio.timeout(SOON_S):
        async for event in events:
            told.append(event)
            if event["event"] == "job" and json.loads(event["data"])["id"] == job:
                break
    return told


def test_a_look_that_fails_is_taken_again(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    """As when the database is held for long, or the disk does not answer."""
    episode = new_episode(store)
    look = store.stamps
    failed: list[int] = []

    def fails_once() -> dict[int, tuple[int, str]]:
        if not failed:
            failed.append(1)
            raise OperationalError("SELECT", {}, Exception("database is locked"))
        return look()

    async def use() -> None:
        events = Watching(store).events()
        await until_told(events, store.add_job("pack", episode, "{}").id)
        monkeypatch.setattr(store, "stamps", fails_once)
        job = store.add_job("pack", episode, "{}").id
        told = await until_told(events, job)
        assert failed
        # Nothing that was told before is told as news.
        assert [json.loads(event["data"])["id"] for event in told] == [job]

    asyncio.run(use())


def test_many_that_begin_to_listen_at_once_are_all_told_and_once(store: Store) -> None:
    episode = new_episode(store)

    async def use() -> None:
        watching = Watching(store)
        listening = [watching.events() for _ in range(8)]
        begun = store.add_job("pack", episode, "{}").id
        for told in await asyncio.gather(*(until_told(one, begun) for one in listening)):
            assert len(told) == 1
        job = store.add_job("pack", episode, "{}").id
        for told in await asyncio.gather(*(until_told(one, job) for one in listening)):
            assert [json.loads(event["data"])["id"] for event in told] == [job]
        assert len(asyncio.all_tasks()) == 2  # this, and one that looks

    asyncio.run(use())
