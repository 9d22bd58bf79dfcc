"""Scheduled publishing through outages of its destination, on a simulated clock."""

import random
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from airtrim.jobs.queue import SteadyClock
from airtrim.services.handing import base, over
from airtrim.services.handing.base import (
    Address,
    Allowed,
    Arrived,
    Door,
    File,
    HandOverError,
    Interrupted,
    Told,
    Way,
)
from airtrim.services.handing.over import RETRY_FOR, Patience, due, publish, schedule
from airtrim.services.standing import standings
from airtrim.store.store import Store
from airtrim.store.tables import HandOverRow

SCHEDULED = datetime(2026, 12, 10, 6, 0, tzinfo=UTC)
ONCE = Patience(attempts=1, first_wait_s=0.0)


@dataclass
class Destination:
    """A destination that cannot be reached for a while, and counts what was published."""

    now: datetime = SCHEDULED
    down_from: datetime = SCHEDULED
    down_for: timedelta = timedelta(0)
    refuses: bool = False
    published: list[datetime] = field(default_factory=list)

    def is_down(self) -> bool:
        return self.down_from <= self.now < self.down_from + self.down_for


class _Door(Door):
    def __init__(self, there: Destination) -> None:
        self._there = there

    def send(self, file: File, told: Told) -> Arrived:
        raise AssertionError

    def read_back(self, file: File, arrived: Arrived) -> Iterator[bytes]:
        raise AssertionError

    def publish(self, arrived: Arrived) -> Arrived:
        if self._there.is_down():
            raise Interrupted("The destination cannot be reached.")
        if self._there.refuses:
            raise HandOverError("The destination refused it.")
        self._there.published.append(self._there.now)
        return arrived


@pytest.fixture
def there(monkeypatch: pytest.MonkeyPatch) -> Destination:
    found = Destination()

    class Simulated(Way):
        name = "simulated"
        title = "Simulated"
        drafts = True

        def check(self, address: Address, allowed: Allowed) -> None:
            pass

        @contextmanager
        def open(self, address: Address, secret: str) -> Iterator[Door]:
            yield _Door(found)

    monkeypatch.setitem(base.WAYS, "simulated", base.WAYS.pop("simulated"))
    monkeypatch.setattr(over, "now", lambda: found.now)
    return found


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    store = Store(tmp_path)
    yield store
    store.close()


def scheduled(store: Store, there: Destination) -> str:
    """A draft at the destination, scheduled three days ahead; its id."""
    show = store.add_show("Slow Crossing").id or 0
    episode = store.add_episode(show, "Slack water").id or 0
    row = store.keep_destination(show, "Harbour Host", "simulated", '{"url": "https://x"}')
    draft = HandOverRow(
        id="draft",
        episode_id=episode,
        destination_id=row.id or 0,
        export_id="export",
        revision=0,
        state="draft",
    )
    store.begin_hand_over(draft, again=True)
    there.now = SCHEDULED - timedelta(days=3)
    schedule(store, draft.id, SCHEDULED)
    return draft.id


def run_until_settled(store: Store, there: Destination, draft: str) -> None:
    """Let time pass, looking every 15 s where something may be due, until nothing is left to do."""
    end = SCHEDULED + timedelta(days=5)
    while there.now < end:
        row = store.hand_over(draft)
        if row.state != "scheduled":
            return
        for waiting in due(store):
            with suppress(Interrupted, HandOverError):
                publish(store, waiting.id, lambda _f, _d: None, ONCE)
        row = store.hand_over(draft)
        next_at = row.retry_at or row.publish_at or there.now
        there.now = max(there.now + timedelta(seconds=15), next_at.replace(tzinfo=UTC))


@pytest.mark.parametrize("seed", range(60))
def test_an_outage_publishes_once_or_is_reported(
    store: Store, there: Destination, seed: int
) -> None:
    """Outages of 1 s to 3 days that begin before, at, or after the scheduled time."""
    chance = random.Random(seed)
    draft = scheduled(store, there)
    there.down_for = timedelta(seconds=10 ** chance.uniform(0, 5.414))
    there.down_from = SCHEDULED + chance.choice([-1, 0, 1]) * there.down_for * chance.random()
    run_until_settled(store, there, draft)
    row = store.hand_over(draft)
    assert row.state in ("published", "overdue")
    if row.state == "published":
        assert len(there.published) == 1
        assert SCHEDULED <= there.published[0] <= SCHEDULED + RETRY_FOR + timedelta(hours=1)
    else:
        assert not there.published
        assert there.down_from + there.down_for >= SCHEDULED + RETRY_FOR - timedelta(hours=1)
        assert row.error
        assert row.publish_at  # the host sees which time was missed


def test_an_overdue_draft_is_reported_on_the_shelf(store: Store, there: Destination) -> None:
    draft = scheduled(store, there)
    there.down_from, there.down_for = SCHEDULED, timedelta(days=3)
    run_until_settled(store, there, draft)
    ((_, (episode,)),) = store.shows()
    episode.frames = 48_000
    assert standings(store, [episode]) == {episode.id: "Not published at Harbour Host"}
    # The host publishes it by hand.
    there.now = SCHEDULED + timedelta(days=4)
    assert publish(store, draft, lambda _f, _d: None, ONCE).state == "published"
    assert len(there.published) == 1


def test_a_refusal_is_reported_at_once(store: Store, there: Destination) -> None:
    draft = scheduled(store, there)
    there.refuses = True
    run_until_settled(store, there, draft)
    row = store.hand_over(draft)
    assert (row.state, row.error) == ("overdue", "The destination refused it.")


def test_pauses_between_attempts_grow_to_an_hour(store: Store, there: Destination) -> None:
    draft = scheduled(store, there)
    there.down_from, there.down_for = SCHEDULED, timedelta(hours=20)
    pauses = []
    there.now = SCHEDULED
    for _ in range(8):
        publish(store, draft, lambda _f, _d: None, ONCE)
        row = store.hand_over(draft)
        assert row.retry_at is not None
        pauses.append((row.retry_at.replace(tzinfo=UTC) - there.now).total_seconds() / 60)
        there.now = row.retry_at.replace(tzinfo=UTC)
    assert pauses == [1, 2, 4, 8, 16, 32, 60, 60]


@pytest.mark.parametrize("what", ["episode", "show"])
def test_a_deleted_episode_is_not_published(store: Store, there: Destination, what: str) -> None:
    draft = scheduled(store, there)
    ((show, (episode,)),) = store.shows()
    if what == "episode":
        store.change_episode(episode.id or 0, deleted=True)
    else:
        store.change_show(show.id or 0, deleted=True)
    there.now = SCHEDULED
    assert due(store) == []
    row = store.hand_over(draft)
    assert row.state == "overdue"
    assert "in the bin" in (row.error or "")
    assert not there.published


def test_a_schedule_across_the_change_of_clocks_keeps_its_moment(
    store: Store, there: Destination
) -> None:
    """In Berlin, 02:30 on 25 October 2026 comes twice; the offset says which is meant."""
    draft = scheduled(store, there)
    there.now = datetime(2026, 10, 1, tzinfo=UTC)
    second = datetime.fromisoformat("2026-10-25T02:30:00+01:00")
    schedule(store, draft, second)
    there.now = datetime.fromisoformat("2026-10-25T02:30:00+02:00").astimezone(UTC)
    assert due(store) == []
    there.now = second.astimezone(UTC)
    assert [row.id for row in due(store)] == [draft]


def test_a_failed_delivery_is_sent_again_once(store: Store, there: Destination) -> None:
    draft = scheduled(store, there)
    with pytest.raises(Exception, match="has arrived already"):
        store.begin_again(draft)
    store.note_hand_over(draft, state="failed")
    assert store.begin_again(draft).state == "sending"
    with pytest.raises(Exception, match="on its way already"):
        store.begin_again(draft)


def test_nothing_is_due_right_after_the_clock_jumped() -> None:
    wall, steady = 1_000_000.0, 50.0
    clock = SteadyClock(lambda: wall, lambda: steady)
    wall, steady = wall + 15, steady + 15
    assert not clock.has_jumped()
    wall, steady = wall + 86_400, steady + 15  # a day ahead
    assert clock.has_jumped()
    wall, steady = wall - 86_385, steady + 15  # and back
    assert clock.has_jumped()
    for _ in range(4):
        wall, steady = wall + 15, steady + 15
    assert not clock.has_jumped()
