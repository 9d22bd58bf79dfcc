"""What is kept: history with its branches, snapshots, shelf columns, room on the disk, jobs."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event, inspect, text

from airtrim.core.timeline.edits.cutting import Cut, CutMany
from airtrim.core.timeline.edits.fields import SpanToCut
from airtrim.core.timeline.edits.placing import Place, Record, RecordedTake
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.edits.restoring import Restore
from airtrim.core.timeline.edits.tracks import AddTrack
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput, NotFound, Stale, StoreFull
from airtrim.jobs.lifecycle import recover
from airtrim.store.database import MIGRATIONS, reading, writing
from airtrim.store.documents import MANY, SNAPSHOT_EVERY
from airtrim.store.files import settle
from airtrim.store.recordings import Landing, Recordings
from airtrim.store.store import Store
from airtrim.store.tables import EditRow, EpisodeRow, TakeRow

SECOND = 48_000


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    store = Store(tmp_path / "data")
    yield store
    store.close()


@pytest.fixture
def episode(store: Store) -> int:
    show = store.add_show("Show")
    episode = store.add_episode(show.id or 0, "Episode").id or 0
    with store.changing(episode, None) as change:
        change.session.add(
            TakeRow(
                id="t", episode_id=episode, name="t", frames=600 * SECOND, channels=1, sha256=""
            )
        )
        change.session.flush()
        change(Place(take="t", take_frames=600 * SECOND))
    return episode


def head(store: Store, episode: int) -> int:
    return store.episode(episode)[0].head_id or 0


def cut(store: Store, episode: int, at: int = 0) -> int:
    return store.edit(episode, head(store, episode), Cut(start=at, frames=SECOND))


def document(store: Store, episode: int) -> Timeline:
    return store.timeline(episode, head(store, episode))


def test_undo_and_redo_walk_the_whole_history(store: Store, episode: int) -> None:
    states = [head(store, episode)]
    for number in range(7):
        states.append(cut(store, episode, number * SECOND))
    for wanted in reversed([0, *states[:-1]]):
        assert store.undo(episode, head(store, episode)) == wanted
    with pytest.raises(BadInput, match="nothing left to undo"):
        store.undo(episode, 0)
    for wanted in states:
        assert store.redo(episode, head(store, episode)) == wanted
    with pytest.raises(BadInput, match="nothing to redo"):
        store.redo(episode, head(store, episode))


def test_redo_follows_the_newest_branch(store: Store, episode: int) -> None:
    """Cut, undo, cut elsewhere, undo, cut a third time: redo makes the third again."""
    base = head(store, episode)
    made = []
    for number in range(3):
        made.append(cut(store, episode, number * SECOND))
        store.undo(episode, made[-1])
    assert head(store, episode) == base
    assert store.opened(episode).redo == "Cut 1.0 s"
    assert store.redo(episode, base) == made[-1]
    names = [entry.revision for entry in store.history(episode)]
    assert names == [base, made[-1]]


def test_a_branch_that_was_left_can_still_be_read(store: Store, episode: int) -> None:
    left = cut(store, episode)
    store.undo(episode, left)
    cut(store, episode, 3 * SECOND)
    assert store.timeline(episode, left).cuts[0].at == 0


def test_an_edit_on_an_old_revision_changes_nothing(store: Store, episode: int) -> None:
    old = head(store, episode)
    now = cut(store, episode)
    with pytest.raises(Stale) as refused:
        store.edit(episode, old, Cut(start=0, frames=SECOND))
    assert refused.value.revision == now
    for step in (store.undo, store.redo):
        with pytest.raises(Stale):
            step(episode, old)
    assert head(store, episode) == now


def test_an_edit_that_does_not_fit_leaves_no_row(store: Store, episode: int) -> None:
    before = store.history(episode)
    with pytest.raises(BadInput):
        store.edit(episode, head(store, episode), Restore(cut=99))
    assert store.history(episode) == before


def test_a_long_history_opens_from_a_snapshot_the_same(store: Store, episode: int) -> None:
    for number in range(SNAPSHOT_EVERY + 20):
        cut(store, episode, number * 1000)
    wanted = document(store, episode)
    with store.engine.begin() as connection:
        kept = connection.execute(
            text("SELECT count(*) FROM edit WHERE snapshot IS NOT NULL")
        ).scalar()
    assert kept == 1
    again = Store(store.files.root)
    assert document(again, episode) == wanted
    again.close()


def test_another_episodes_revision_is_not_found(store: Store, episode: int) -> None:
    other = store.add_episode(1, "Other").id or 0
    with pytest.raises(NotFound):
        store.timeline(other, head(store, episode))


def test_the_shelf_shows_what_the_document_says(store: Store, episode: int) -> None:
    cut(store, episode)
    tags = SetTags(tags=Tags(season=2, episode=9), artwork="a" * 64)
    store.edit(episode, head(store, episode), tags)
    row = store.shows()[0][1][0]
    assert (row.frames, row.trimmed) == (599 * SECOND, SECOND)
    assert (row.season, row.number, row.artwork) == (2, 9, "a" * 64)
    store.undo(episode, head(store, episode))
    store.undo(episode, head(store, episode))
    row = store.shows()[0][1][0]
    assert (row.frames, row.trimmed, row.number, row.artwork) == (600 * SECOND, 0, None, None)


def test_several_edits_are_one_transaction(store: Store, episode: int) -> None:
    before = head(store, episode)

    def two() -> None:
        with store.changing(episode, None) as change:
            change(Cut(start=0, frames=SECOND))
            change(Restore(cut=99))

    with pytest.raises(BadInput):
        two()
    assert head(store, episode) == before


def test_a_long_history_is_read_at_once(store: Store) -> None:
    """10,000 edits; each with a large snapshot that is not wanted."""
    show = store.add_show("Slow Crossing").id or 0
    episode = store.add_episode(show, "Long").id or 0
    first = store.edit(episode, 0, AddTrack(name="Ada"))
    with writing(store.engine) as session:
        row = session.get(EditRow, first)
        parent = first
        for depth in range(2, 10_001):
            session.add(
                EditRow(
                    id=first + depth,
                    episode_id=episode,
                    parent_id=parent,
                    depth=depth,
                    name=f"Edit {depth}",
                    edit='{"kind": "rename_speaker", "old": "a", "new": "b"}',
                    snapshot="x" * 20_000 if depth % 100 == 0 else None,
                )
            )
            parent = first + depth
        head = session.get(EpisodeRow, episode)
        assert row is not None
        assert head is not None
        head.head_id = head.tip_id = parent
    statements: list[str] = []
    listening = (store.engine, "before_cursor_execute", lambda *told: statements.append(told[2]))
    event.listen(*listening)
    history = store.history(episode)
    event.remove(*listening)
    assert len(history) == 10_000
    assert [history[0].name, history[-1].name] == ["Added track Ada", "Edit 10000"]
    assert all(entry.done for entry in history)
    assert len(statements) <= 4, "one statement for all edits"
    assert not any("edit.snapshot" in statement for statement in statements)


def test_a_new_store_has_every_table_and_index(store: Store) -> None:
    found = inspect(store.engine)
    assert set(found.get_table_names()) == {
        "show",
        "guest",
        "episode",
        "edit",
        "take",
        "sound",
        "job",
        "recording",
        "setup",
        "chain",
        "copy_link",
        "destination",
        "hand_over",
        "identity",
        "alembic_version",
    }
    assert "edit_parent" in {index["name"] for index in found.get_indexes(EditRow.__tablename__)}


def test_a_store_of_an_earlier_version_is_brought_up_to_date_with_all_that_is_in_it(
    tmp_path: Path,
) -> None:
    engine = create_engine(f"sqlite:///{tmp_path / 'airtrim.db'}")
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0001")
        stamp = "'2026-11-01 10:00:00', '2026-11-01 10:00:00'"
        connection.execute(text("INSERT INTO show (id, name, created_at) VALUES (1, 'Show', 0)"))
        connection.execute(
            text(
                "INSERT INTO episode (id, show_id, title, frames, trimmed, created_at, updated_at)"
                f" VALUES (1, 1, 'Left open', 0, 0, {stamp})"
            )
        )
        connection.execute(
            text(
                "INSERT INTO recording (id, episode_id, state, tracks, landing, flags, created_at)"
                " VALUES ('r', 1, 'open', '[\"Voice\"]', '{}', '[]', '2026-11-01 10:00:00')"
            )
        )
    engine.dispose()
    store = Store(tmp_path)
    (left,) = Recordings(store).unfinished(1)
    assert (left.id, left.tracks, left.guest, left.whole) == ("r", ("Voice",), None, None)
    store.close()


def test_the_disk_is_asked_before_anything_is_written(tmp_path: Path) -> None:
    full = Store(tmp_path, keep_free_bytes=10**18)
    with pytest.raises(StoreFull, match="nearly full"):
        full.files.need(1)
    full.close()


def test_a_scratch_folder_is_gone_whatever_happens(store: Store) -> None:

    def broken(error: Exception) -> None:
        with store.files.beside() as folder:
            (folder / "half").write_bytes(b"x")
            raise error

    with pytest.raises(RuntimeError):
        broken(RuntimeError())
    with pytest.raises(StoreFull):
        broken(OSError(28, "No space left on device"))
    assert list((store.files.root / "tmp").iterdir()) == []


def test_a_finished_folder_replaces_what_a_crash_left(store: Store) -> None:
    target = store.files.take("x")
    target.mkdir()
    (target / "half").write_bytes(b"half")
    with store.files.beside() as folder:
        (folder / "take").mkdir()
        (folder / "take" / "sound").write_bytes(b"whole")
        settle(folder / "take", target)
    assert [path.name for path in target.iterdir()] == ["sound"]


@pytest.mark.parametrize("name", ["../up", "a/b", "", ".", "a" * 81, "é"])
def test_no_name_of_a_user_becomes_a_path(store: Store, name: str) -> None:
    with pytest.raises(BadInput):
        store.files.take(name)


def test_work_that_was_begun_three_times_is_left_to_the_host(store: Store, episode: int) -> None:
    fresh = store.add_job("measure", episode, "{}")
    tired = store.add_job("measure", episode, "{}")
    store.update_job(fresh.id, state="running", attempts=1)
    store.update_job(tired.id, state="running", attempts=3)
    assert recover(store) == [fresh.id]
    assert store.job(fresh.id).state == "queued"
    assert store.job(tired.id).state == "interrupted"
    assert "run it again" in (store.job(tired.id).error or "")


def test_a_job_asked_for_twice_is_one_job(store: Store, episode: int) -> None:
    first = store.add_job("import", episode, "{}", job_id="same")
    assert store.add_job("import", episode, "{}", job_id="same").id == first.id
    assert len(store.jobs(episode)) == 1


def test_a_recordings_state_goes_one_way(store: Store, episode: int) -> None:
    recordings = Recordings(store)
    made = recordings.begin(episode, ("Tobin",), Landing())
    recordings.change(made.id, "adding", "open")
    with pytest.raises(BadInput, match="already been added"):
        recordings.change(made.id, "discarded", "open")
    recordings.change(made.id, "added", "adding")
    assert recordings.unfinished(episode) == []


def test_a_recorded_take_survives_a_restart(store: Store, episode: int) -> None:
    take = TakeRow(id="r", episode_id=episode, name="r", frames=SECOND, channels=1, sha256="")
    with store.changing(episode, None) as change:
        change.session.add(take)
        change.session.flush()
        change(Record(takes=(RecordedTake(take="r", track_name="B", gain_db=-3.0),), frames=SECOND))
    again = Store(store.files.root)
    assert document(again, episode).tracks[1].clips[0].gain_db == -3.0
    again.close()


def test_of_many_workers_one_takes_a_job(store: Store, episode: int) -> None:
    """A job woken twice, as it can be when a worker starts, is run once."""
    store.add_job("import", episode, "{}", job_id="one")
    with ThreadPoolExecutor(8) as pool:
        taken = list(pool.map(lambda _: store.begin_job("one"), range(8)))
    assert [job.attempts for job in taken if job] == [1]
    assert store.job("one").state == "running"


def test_a_job_cancelled_while_it_waits_is_never_run(store: Store, episode: int) -> None:
    store.add_job("import", episode, "{}", job_id="one")
    store.update_job("one", cancel=True)
    assert store.begin_job("one") is None
    assert store.job("one").state == "cancelled"


def test_a_great_many_cuts_at_once_need_not_be_made_again(store: Store, episode: int) -> None:
    placed = store.edit(episode, None, Place(take="t", take_frames=900_000, track_name="V", at=0))
    spans = tuple(SpanToCut(start=n * 9_000, frames=90) for n in range(MANY + 1))
    many = store.edit(episode, None, CutMany(spans=spans))
    with reading(store.engine) as session:
        assert session.get(EditRow, placed).snapshot is None
        assert session.get(EditRow, many).snapshot is not None
    again = Store(store.files.root)
    assert again.timeline(episode, many) == store.timeline(episode, many)
    again.close()
