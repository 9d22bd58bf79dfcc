"""Backups and back again, looking through all that is kept, and deleting for good."""

import json
import os
import shutil
import sqlite3
import time
from datetime import timedelta
from pathlib import Path

import pytest
from alembic import command
from sqlmodel import create_engine, select

from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput, Busy, CannotStart
from airtrim.jobs.kinds.exporting import EXPORT
from airtrim.store.backup import back_up, last_backup, restore
from airtrim.store.checking import Checked, check_data
from airtrim.store.database import config, writing
from airtrim.store.lock import FolderLock
from airtrim.store.purging import UNDO, Bin
from airtrim.store.recordings import Landing, Recordings
from airtrim.store.space import clear, space_of
from airtrim.store.store import Store
from airtrim.store.tables import EditRow, EpisodeRow, HandOverRow, JobRow, RecordingRow, now
from tests.reference import RATE


@pytest.fixture
def data(tmp_path: Path, laid_out: Path) -> Path:
    shutil.copytree(laid_out, tmp_path / "data")
    return tmp_path / "data"


def looked_through(root: Path, *, repair: bool = False) -> Checked:
    store = Store(root)
    found = check_data(store, repair=repair)
    store.close()
    return found


def downgrade(root: Path, version: str) -> None:
    """Bring a database back to an earlier version of its tables."""
    engine = create_engine(f"sqlite:///{root / 'airtrim.db'}")
    with engine.begin() as connection:
        alembic = config()
        alembic.attributes["connection"] = connection
        command.downgrade(alembic, version)
    engine.dispose()


def timelines(root: Path) -> list[Timeline]:
    store = Store(root)
    with store.changing(1, None) as change:
        found = change.timeline
    store.close()
    return [found]


# --- backups ---


@pytest.mark.parametrize("name", ["backups", "backup.zip"])
def test_what_is_backed_up_is_restored_to_the_byte(tmp_path: Path, data: Path, name: str) -> None:
    before = timelines(data)
    done = back_up(data, tmp_path / name)
    assert done.files > 20
    assert done.copied_files > 10  # some files are the same as others
    assert last_backup(data) == done.made_at
    restored = tmp_path / "restored"
    assert restore(tmp_path / name, restored, replace=False) == done.files
    for path in (data / "takes").rglob("*"):
        if path.is_file():
            assert (restored / path.relative_to(data)).read_bytes() == path.read_bytes()
    assert timelines(restored) == before
    assert looked_through(restored).findings == ()


def test_a_second_backup_copies_only_what_is_new(tmp_path: Path, data: Path) -> None:
    first = back_up(data, tmp_path / "b")
    again = back_up(data, tmp_path / "b")
    assert (again.copied_files, again.copied_bytes) == (0, 0)
    assert again.files == first.files
    new = data / "takes" / "intro" / "words-before.json"
    new.write_text("[]")
    third = back_up(data, tmp_path / "b")
    assert (third.copied_files, third.copied_bytes) == (1, 2)
    # What was taken out of the data is still in the backup of before, and not in the newest.
    new.unlink()
    back_up(data, tmp_path / "b")
    restore(tmp_path / "b", tmp_path / "r", replace=False)
    assert not (tmp_path / "r" / "takes" / "intro" / "words-before.json").exists()


def test_a_backup_that_breaks_off_leaves_those_before_whole(tmp_path: Path, data: Path) -> None:
    back_up(data, tmp_path / "b")
    snapshots = sorted((tmp_path / "b" / "snapshots").iterdir())
    (data / "takes" / "intro" / "words-before.json").write_text("[]")

    def stop(fraction: float, _doing: str) -> None:
        if fraction > 0.5:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        back_up(data, tmp_path / "b", stop)
    assert sorted((tmp_path / "b" / "snapshots").iterdir()) == snapshots
    assert back_up(data, tmp_path / "b").files > 0


@pytest.mark.parametrize("name", ["backups", "backup.zip"])
def test_a_damaged_backup_is_not_restored(tmp_path: Path, data: Path, name: str) -> None:
    back_up(data, tmp_path / name)
    if name == "backups":
        victim = max((tmp_path / name / "files").rglob("*"), key=lambda p: p.stat().st_size)
    else:
        victim = tmp_path / name
    damaged = bytearray(victim.read_bytes())
    damaged[len(damaged) // 2] ^= 1
    victim.write_bytes(damaged)
    with pytest.raises(BadInput, match=r"damaged|cannot be read whole"):
        restore(tmp_path / name, tmp_path / "r", replace=False)
    assert [p.name for p in (tmp_path / "r").iterdir()] == ["lock"]


def test_what_is_there_is_moved_aside_only_when_that_is_said(tmp_path: Path, data: Path) -> None:
    back_up(data, tmp_path / "b")
    with pytest.raises(Busy, match="--replace"):
        restore(tmp_path / "b", data, replace=False)
    restore(tmp_path / "b", data, replace=True)
    assert looked_through(data).sound
    (aside,) = tmp_path.glob("data-before-*")
    assert (aside / "airtrim.db").exists()


def test_nothing_is_restored_under_a_server(tmp_path: Path, data: Path) -> None:
    back_up(data, tmp_path / "b")
    lock = FolderLock(data)
    with pytest.raises(Busy, match=f"process {os.getpid()}"):
        restore(tmp_path / "b", data, replace=True)
    lock.release()


def test_a_backup_names_no_file_outside(tmp_path: Path, data: Path) -> None:
    back_up(data, tmp_path / "b")
    (manifest,) = (tmp_path / "b" / "snapshots").glob("*/manifest.json")
    told = json.loads(manifest.read_text())
    told["files"][0]["path"] = "takes/../../evil"
    manifest.write_text(json.dumps(told))
    with pytest.raises(BadInput, match="none of Air Trim"):
        restore(tmp_path / "b", tmp_path / "r", replace=False)
    assert not (tmp_path / "evil").exists()


def test_a_recording_that_is_being_made_is_backed_up_with_its_pieces(
    tmp_path: Path, data: Path
) -> None:
    store = Store(data)
    recording = Recordings(store).begin(1, ("Extra",), Landing())
    pieces = Recordings(store).pieces(recording)
    pieces.add(0, 0, bytes(96_000))
    back_up(data, tmp_path / "b")
    pieces.add(1, 24_000, bytes(96_000))
    store.close()
    restore(tmp_path / "b", tmp_path / "r", replace=False)
    back = Store(tmp_path / "r")
    assert Recordings(back).get(recording.id).frames == 24_000
    back.close()
    assert looked_through(tmp_path / "r").sound


# --- looking through ---


def test_data_as_they_should_be(data: Path) -> None:
    found = looked_through(data)
    assert found.findings == ()
    assert (found.episodes, found.takes) == (1, 8)
    assert found.edits > 8


def test_what_is_derived_is_repaired_and_what_is_not_is_told(data: Path) -> None:
    takes = data / "takes"
    (takes / "intro" / "peaks").write_bytes(b"x")
    (takes / "guest" / "listened.json").write_text("[")
    sound = takes / "host-opening" / "sound"
    sound.write_bytes(sound.read_bytes()[: sound.stat().st_size // 2])
    store = Store(data)
    with writing(store.engine) as session:
        row = session.exec(select(EditRow).order_by(EditRow.id.desc())).first()
        row.edit = "{}"
        name = row.name
    store.close()
    told = [finding.what for finding in looked_through(data).findings]
    assert len(told) == 4
    found = looked_through(data, repair=True)
    assert [f.what for f in found.findings if not f.repaired] == [t for t in told if name in t]
    assert len(looked_through(data).findings) == 1
    assert not found.sound


def test_what_is_gone_is_told(data: Path) -> None:
    shutil.rmtree(data / "takes" / "outro")
    (artwork,) = (data / "artwork").iterdir()
    artwork.write_bytes(artwork.read_bytes()[:-9])
    told = " ".join(f.what for f in looked_through(data, repair=True).findings)
    assert "is missing (outro)" in told
    assert "artwork is damaged" in told


def test_a_snapshot_that_is_not_what_the_edits_led_to_is_told(data: Path) -> None:
    store = Store(data)
    for number in range(110):
        store.edit(1, None, Cut(start=number * RATE // 10, frames=480))
    with writing(store.engine) as session:
        row = session.exec(select(EditRow).where(EditRow.snapshot.is_not(None))).first()
        kept = json.loads(row.snapshot)
        kept["tracks"][0]["gain_db"] = 6.0
        row.snapshot = json.dumps(kept)
    store.close()
    told = [f.what for f in looked_through(data).findings]
    assert len(told) == 1
    assert "is not what it led to" in told[0]


# --- the database ---


def test_a_copy_of_the_database_is_kept_before_it_is_migrated(data: Path) -> None:
    with sqlite3.connect(data / "airtrim.db") as connection:
        (newest,) = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    connection.close()
    downgrade(data, "0003")
    Store(data).close()
    copy = data / f"airtrim-before-{newest}.db"
    with sqlite3.connect(copy) as connection:
        assert connection.execute("SELECT version_num FROM alembic_version").fetchone() == ("0003",)
    connection.close()


def test_exports_of_one_file_become_exports_of_several(data: Path) -> None:
    """As the program wrote them before migration 0008."""
    store = Store(data)
    job = store.add_job("export", 1, "{}").id
    store.update_job(job, state="done")
    store.close()
    params = {
        "revision": 3,
        "settings": {"format": "wav", "kbits": None, "id3_version": "2.3"},
        "file_name": "Slow Crossing - One.wav",
        "despite_damage": False,
    }
    result = {"notice": None, "next": [], "bytes": 9, "tags": {"title": "One"}}
    downgrade(data, "0007")
    with sqlite3.connect(data / "airtrim.db") as connection:
        old = "UPDATE job SET params = ?, result = ? WHERE id = ?"
        connection.execute(old, (json.dumps(params), json.dumps(result), job))
    connection.close()
    folder = data / "exports" / job
    folder.mkdir()
    (folder / "file.wav").write_bytes(b"123456789")
    store = Store(data)
    row = store.job(job)
    told = EXPORT.params_of(row)
    assert (told.file_name, told.file(0).name) == ("Slow Crossing - One", "file.wav")
    (report,) = json.loads(row.result or "{}")["files"]
    assert (report["format"], report["bytes"], report["tags"]) == ("wav", 9, {"title": "One"})
    assert not check_data(store).findings
    (folder / "file.wav").write_bytes(b"12")
    assert "not as long" in str(check_data(store).findings)
    store.close()


def test_newer_data_are_not_touched(data: Path) -> None:
    with sqlite3.connect(data / "airtrim.db") as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    connection.close()
    before = (data / "airtrim.db").read_bytes()
    with pytest.raises(CannotStart, match="newer Air Trim"):
        Store(data)
    assert (data / "airtrim.db").read_bytes() == before


def test_a_broken_database_is_told(data: Path) -> None:
    (data / "airtrim.db").write_bytes(b"no database at all" * 500)
    with pytest.raises(CannotStart, match="damaged"):
        Store(data)


# --- deleting ---


def bytes_in(root: Path) -> int:
    return sum(p.stat().st_size for p in root.rglob("*") if p.is_file() and p.suffix != ".db-wal")


def test_what_was_deleted_goes_for_good_after_its_undo_and_not_before(data: Path) -> None:
    store = Store(data)
    kept_show = store.add_show("Other")
    kept = store.add_episode(kept_show.id or 0, "Kept").id or 0
    art = store.episode(1)[0].artwork
    store.edit(kept, None, SetTags(tags=Tags(title="Kept"), artwork=art))
    recording = Recordings(store).begin(1, ("Extra",), Landing())
    Recordings(store).pieces(recording).add(0, 0, bytes(96_000))
    job = store.add_job("export", 1, "{}")
    store.update_job(job.id, state="done", result="{}")
    (data / "exports" / job.id).mkdir()
    (data / "exports" / job.id / "file.mp3").write_bytes(bytes(50_000))
    store.change_episode(1, deleted=True)
    in_bin = Bin(store)
    (listed,) = in_bin.contents()
    assert listed.title
    assert listed.bytes > 10_000_000
    assert in_bin.empty().episodes == 0
    assert store.change_episode(1, deleted=False).deleted_at is None
    assert in_bin.contents() == []

    with writing(store.engine) as session:
        row = session.get(EpisodeRow, 1)
        row.deleted_at = now() - UNDO - timedelta(minutes=1)
    before = bytes_in(data)
    freed = in_bin.empty()
    assert freed.episodes == 1
    assert freed.bytes == pytest.approx(before - bytes_in(data), rel=0.05)
    for folder in ("recordings", "exports"):
        assert list((data / folder).iterdir()) == []
    on_shelf = {sound.id for sound in store.sounds(1)}
    assert {take.name for take in (data / "takes").iterdir()} == on_shelf
    # What is used elsewhere stays.
    assert store.files.artwork(art or "").exists()
    assert store.episode(kept)[0].artwork == art
    store.close()
    assert looked_through(data).findings == ()


def test_what_can_be_made_again_is_cleared_and_what_was_handed_over_stays(data: Path) -> None:
    store = Store(data)
    folders = {}
    for name, state in (("old", "done"), ("given", "done"), ("new", "running")):
        job = store.add_job("export", 1, "{}")
        store.update_job(job.id, state=state)
        folders[name] = data / "exports" / job.id
        folders[name].mkdir()
        (folders[name] / "file.mp3").write_bytes(bytes(400_000))
    host = store.keep_destination(1, "Host", "folder", "{}").id or 0
    export = folders["given"].name
    given = HandOverRow(id="1", episode_id=1, destination_id=host, export_id=export, revision=1)
    store.begin_hand_over(given, again=False)
    (before,) = (one for one in space_of(store) if one.id == 1)
    assert before.clearable == pytest.approx(400_000, rel=0.05)
    assert before.bytes == pytest.approx(bytes_in(data / "takes") + 1_200_000, rel=0.1)
    assert before.damaged == []
    assert clear(store, 1) == before.clearable
    assert {name for name, folder in folders.items() if folder.exists()} == {"given", "new"}
    assert [one.clearable for one in space_of(store)] == [0]
    sound = store.files.take(store.takes(1)[0].id) / "sound"
    sound.write_bytes(sound.read_bytes()[:-5000])
    assert [len(one.damaged) for one in space_of(store)] == [1]
    store.close()


def test_everything_deleted_goes_now_when_that_is_said_but_not_under_work(data: Path) -> None:
    store = Store(data)
    store.change_show(1, deleted=True)
    job = store.add_job("measure", 1, "{}")
    assert Bin(store).empty(all_now=True).episodes == 0
    store.update_job(job.id, state="cancelled")
    assert Bin(store).empty(all_now=True).episodes == 1
    assert store.shows() == []
    with writing(store.engine) as session:
        assert session.exec(select(EditRow)).all() == []
        assert session.exec(select(JobRow)).all() == []
    store.close()


def test_work_that_ended_long_ago_is_forgotten_but_for_what_it_left(data: Path) -> None:
    store = Store(data)
    kinds = ("measure", "transcribe", "export", "pack", "batch")
    jobs = {kind: store.add_job(kind, 1, "{}", kind) for kind in kinds}
    waiting = store.add_job("measure", 1, "{}")
    for job in jobs.values():
        store.update_job(job.id, state="done")
    Bin(store).empty(all_now=True)
    assert len(store.jobs(1)) == len(kinds) + 1
    with writing(store.engine) as session:
        for job in session.exec(select(JobRow)).all():
            job.updated_at = now() - UNDO - timedelta(minutes=1)
    Bin(store).empty()
    assert {job.id for job in store.jobs(1)} == {"export", "pack", "batch", waiting.id}
    store.close()


def test_recordings_set_aside_and_files_that_no_row_names_go(data: Path) -> None:
    store = Store(data)
    recording = Recordings(store).begin(1, ("Extra",), Landing())
    Recordings(store).pieces(recording).add(0, 0, bytes(96_000))
    Recordings(store).change(recording.id, "discarded", "open")
    orphan = data / "takes" / "nobodys"
    orphan.mkdir()
    (orphan / "sound").write_bytes(bytes(20_000))
    young = data / "takes" / "being-made"
    young.mkdir()
    old = time.time() - 2 * 24 * 3600
    os.utime(orphan, (old, old))
    freed = Bin(store).empty()
    assert freed.recordings == 0
    assert not orphan.exists()
    assert young.exists()
    assert Bin(store).empty(all_now=True).recordings == 1
    with writing(store.engine) as session:
        assert session.exec(select(RecordingRow)).all() == []
    assert not (data / "recordings" / recording.id).exists()
    store.close()
