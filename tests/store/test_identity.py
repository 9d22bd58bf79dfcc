"""Ids, the mark that database and folder share, and files without a row."""

import os
import random
import shutil
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

from airtrim.core.timeline.edits.tracks import AddTrack
from airtrim.errors import CannotStart, NotFound
from airtrim.services.handing.over import secret_key
from airtrim.services.secrets import Secrets
from airtrim.services.trash import empty_trash
from airtrim.store.backup import back_up, restore
from airtrim.store.checking import check_data
from airtrim.store.database import writing
from airtrim.store.purging import UNDO, Bin
from airtrim.store.quarantine import KEEP_S, Quarantine
from airtrim.store.recordings import Landing, Recordings
from airtrim.store.store import Store
from airtrim.store.tables import RecordingRow, now

TWO_DAYS_S = 2 * 24 * 3600


@pytest.fixture
def data(tmp_path: Path, laid_out: Path) -> Path:
    shutil.copytree(laid_out, tmp_path / "data")
    for folder in media(tmp_path / "data"):
        os.utime(folder, (time.time() - TWO_DAYS_S,) * 2)
    return tmp_path / "data"


def media(root: Path) -> list[Path]:
    return [*(root / "takes").iterdir(), *(root / "recordings").iterdir()]


# --- ids ---


def test_a_deleted_episode_gives_its_id_and_its_revisions_to_nobody(tmp_path: Path) -> None:
    store = Store(tmp_path)
    show = store.add_show("Slipway Tales").id or 0
    first = store.add_episode(show, "First").id or 0
    revision = store.edit(first, 0, AddTrack(name="Ada"))
    store.change_episode(first, deleted=True)
    Bin(store).empty(all_now=True)
    second = store.add_episode(show, "Second").id or 0
    assert second > first
    assert store.edit(second, 0, AddTrack(name="Ben")) > revision
    for gone in (revision, 0):
        with pytest.raises(NotFound):
            store.timeline(first, gone)
    store.close()


def test_ids_stay_unique_in_data_of_earlier_versions(data: Path) -> None:
    """``laid_out`` was migrated from the first version of the tables on."""
    with closing(sqlite3.connect(data / "airtrim.db")) as connection:
        tables = dict(connection.execute("SELECT name, sql FROM sqlite_master WHERE sql NOT NULL"))
        broken = connection.execute("PRAGMA foreign_key_check").fetchall()
    numbered = [name for name, sql in tables.items() if "\tid INTEGER NOT NULL" in sql]
    assert len(numbered) == 6
    assert all("AUTOINCREMENT" in tables[name] for name in numbered)
    assert broken == []


def test_another_process_does_not_read_a_purged_document_from_memory(tmp_path: Path) -> None:
    server, worker = Store(tmp_path), Store(tmp_path)
    show = server.add_show("Slipway Tales").id or 0
    episode = server.add_episode(show, "First").id or 0
    revision = server.edit(episode, 0, AddTrack(name="Ada"))
    assert worker.timeline(episode, revision).tracks
    server.change_episode(episode, deleted=True)
    Bin(server).empty(all_now=True)
    with pytest.raises(NotFound):
        worker.timeline(episode, revision)
    for store in (server, worker):
        store.close()


def test_a_restored_backup_is_a_new_generation(tmp_path: Path, data: Path) -> None:
    back_up(data, tmp_path / "backups")
    restore(tmp_path / "backups", tmp_path / "restored", replace=False)
    before, after = Store(data), Store(tmp_path / "restored")
    assert after.identity.folder == before.identity.folder
    assert after.identity.generation != before.identity.generation
    for store in (before, after):
        store.close()


# --- a database that does not belong to the files ---


def _remove(database: Path) -> None:
    for path in database.parent.glob("airtrim.db*"):
        path.unlink()


def _empty(database: Path) -> None:
    _remove(database)
    database.touch()


def _from_another_folder(database: Path) -> None:
    _remove(database)
    other = Store(database.parent.parent / "other")
    other.add_show("Another show")
    other.close()
    shutil.copy(database.parent.parent / "other" / "airtrim.db", database)


def _truncate(database: Path) -> None:
    with database.open("r+b") as file:
        file.truncate(random.Random(1).randrange(1, database.stat().st_size))


def _older(database: Path) -> None:
    """A database of before all recordings, from the same folder."""
    with closing(sqlite3.connect(database)) as connection, connection:
        connection.execute("PRAGMA foreign_keys=OFF")
        for table in ("take", "sound", "recording", "edit", "job", "hand_over", "episode"):
            connection.execute(f"DELETE FROM {table}")


def _newer(database: Path) -> None:
    with closing(sqlite3.connect(database)) as connection, connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")


@pytest.mark.parametrize(
    "change", [_remove, _empty, _from_another_folder, _truncate, _older, _newer]
)
def test_no_recording_is_deleted_whatever_became_of_the_database(
    data: Path, change: Callable[[Path], None]
) -> None:
    before = {path.name for path in media(data)}
    assert before
    change(data / "airtrim.db")
    for _ in range(3):
        try:
            store = Store(data)
        except CannotStart:
            continue
        Bin(store).empty()
        store.close()
    quarantined = {item.name for item in Quarantine(data).contents()}
    assert {path.name for path in media(data)} | quarantined == before


@pytest.mark.parametrize("change", [_remove, _empty, _from_another_folder])
def test_a_foreign_database_is_refused_until_the_operator_adopts_it(
    data: Path, change: Callable[[Path], None]
) -> None:
    change(data / "airtrim.db")
    for _ in range(2):
        with pytest.raises(CannotStart, match=r"holds \d+ recordings"):
            Store(data)
    Store(data, adopt=True).close()
    Store(data).close()


def test_files_without_a_row_wait_in_quarantine_and_can_be_restored(data: Path) -> None:
    before = {path.name for path in media(data)}
    _older(data / "airtrim.db")
    store = Store(data)
    Bin(store).empty()
    quarantine = Quarantine(data)
    assert {item.name for item in quarantine.contents()} == before
    Bin(store).empty()  # they stay for a month
    assert {item.name for item in quarantine.contents()} == before
    assert check_data(store).notes
    found = check_data(store, restore_files=True)
    assert len(found.findings) == len(before)
    assert {path.name for path in media(data)} == before
    store.close()


def test_quarantine_ends_after_thirty_days(data: Path) -> None:
    store = Store(data)
    orphan = data / "takes" / "orphan"
    orphan.mkdir()
    (orphan / "sound").write_bytes(b"x" * 10_000)
    os.utime(orphan, (time.time() - TWO_DAYS_S,) * 2)
    Bin(store).empty()
    (item,) = Quarantine(data).contents()
    date = item.path.with_name(f"{item.path.name}.quarantined.json")
    long_ago = time.time() - KEEP_S - 3600
    date.write_text(f'{{"since_s": {long_ago}, "name": "orphan"}}')
    Bin(store).empty()
    assert item.path.exists()  # by the date alone: a clock may have been wrong
    os.utime(date, (long_ago, long_ago))
    Bin(store).empty()
    assert not item.path.exists()
    store.close()


def test_nothing_goes_into_quarantine_while_the_database_is_damaged(
    data: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    store = Store(data)
    orphan = data / "takes" / "orphan"
    orphan.mkdir()
    os.utime(orphan, (time.time() - TWO_DAYS_S,) * 2)
    monkeypatch.setattr(store, "is_database_sound", lambda: False)
    Bin(store).empty()
    assert orphan.exists()
    store.close()


# --- dates, secrets, permissions ---


def test_a_discarded_recording_stays_thirty_days_from_the_discard(data: Path) -> None:
    store = Store(data)
    recordings = Recordings(store)
    made = recordings.begin(1, ("Old voice",), Landing())
    with writing(store.engine) as session:
        row = session.get(RecordingRow, made.id)
        assert row is not None
        row.created_at = now() - UNDO * 2
    recordings.change(made.id, "discarded", "open")
    assert Bin(store).empty().recordings == 0
    with writing(store.engine) as session:
        row = session.get(RecordingRow, made.id)
        assert row is not None
        row.discarded_at = now() - UNDO * 2
    assert Bin(store).empty().recordings == 1
    store.close()


def test_secrets_go_with_their_show(tmp_path: Path) -> None:
    store = Store(tmp_path)
    show = store.add_show("Slipway Tales").id or 0
    row = store.keep_destination(show, "Harbour Host", "host", "{}")
    secrets = Secrets(tmp_path)
    secrets.keep(secret_key(row.id), "a token")
    store.change_show(show, deleted=True)
    empty_trash(store)
    assert secrets.of(secret_key(row.id)) == "a token"  # the show can still be restored
    empty_trash(store, all_now=True)
    assert secrets.of(secret_key(row.id)) == ""
    store.close()


def test_data_are_private_to_their_owner(tmp_path: Path) -> None:
    root = tmp_path / "data"
    root.mkdir(mode=0o755)
    Store(root).close()
    assert root.stat().st_mode & 0o777 == 0o700
    assert (root / "airtrim.db").stat().st_mode & 0o777 == 0o600


def test_an_empty_episode_has_to_exist(tmp_path: Path) -> None:
    store = Store(tmp_path)
    with pytest.raises(NotFound):
        store.timeline(77, 0)
    store.close()


def test_scratch_files_of_all_processes_go_when_the_server_ends(tmp_path: Path) -> None:
    store = Store(tmp_path)
    for owner in ("server", "worker"):
        (tmp_path / "tmp" / f"{owner}-left").mkdir()
    store.files.sweep(everything=True)
    assert list((tmp_path / "tmp").iterdir()) == []
    store.close()
