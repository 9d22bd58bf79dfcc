"""Recordings and what is derived of them, damaged on the disk: told, mended, never passed over."""

import io
import random
import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlmodel import Session

from airtrim.api.app import create_app
from airtrim.core.media.take import store_take
from airtrim.errors import CannotStart
from airtrim.jobs.queue import Queue
from airtrim.services.finding import keep_words
from airtrim.settings import Settings
from airtrim.store.checking import check_data
from airtrim.store.store import Store
from airtrim.store.tables import TakeRow
from tests.api.host import HERE, Host, wav
from tests.reference import RATE, programme


def folder(host: Host, episode: int) -> Path:
    (take,) = host.view(episode)["takes"]
    return host.state.store.files.take(take["id"])


def halve(path: Path) -> None:
    data = path.read_bytes()
    path.write_bytes(data[: len(data) // 2])


def turn_a_bit(path: Path) -> None:
    data = bytearray(path.read_bytes())
    data[len(data) * 3 // 4] ^= 0x40
    path.write_bytes(data)


def export(host: Host, episode: int, **more: object) -> dict:
    body = {"revision": host.view(episode)["revision"], "files": [{"format": "wav"}], **more}
    answer = host.client.post(f"/api/episodes/{episode}/exports", json=body)
    return host.work(answer.json()["id"])


def float_episode(host: Host, rate: int = RATE) -> int:
    """A take that is kept as floats: RF64, which has no checksums of its own."""
    buffer = io.BytesIO()
    soundfile.write(buffer, programme(6, 1, 1), rate, format="WAV", subtype="FLOAT")
    return host.filled(buffer.getvalue())


def test_sound_is_kept_by_browsers_only_while_it_is_what_its_address_says(host: Host) -> None:
    episode = host.filled()
    view = host.view(episode)
    address = f"/api/episodes/{episode}/audio"
    where = {"revision": view["revision"], "start": 0, "frames": 48_000}

    def lasting(content: str | None) -> bool:
        params = where if content is None else {**where, "content": content}
        answer = host.client.get(address, params=params)
        assert answer.status_code == 200
        return "immutable" in answer.headers["cache-control"]

    assert lasting(view["content"])
    assert not lasting(None)
    assert not lasting("0" * 16)
    # The same take as another file, as after a repair.
    sound = folder(host, episode) / "sound"
    copy = sound.with_name("copy")
    copy.write_bytes(sound.read_bytes())
    copy.replace(sound)
    assert not lasting(view["content"])
    assert lasting(host.view(episode)["content"])
    # What cannot be read is silent, and is not kept.
    data = sound.read_bytes()
    sound.write_bytes(data[: len(data) // 3])
    host.client.get(address, params={**where, "start": 4 * 48_000})
    assert not lasting(host.view(episode)["content"])


def test_a_take_of_the_first_release_is_made_anew_as_it_was(host: Host) -> None:
    """Then what was resampled was kept as floats."""
    episode = float_episode(host, 44_100)
    take = folder(host, episode)
    info = store_take(
        take / "original", take / "sound", take / "peaks", name="a take", as_float=True
    )
    with Session(host.state.store.engine) as session:
        row = session.get(TakeRow, take.name)
        assert row is not None
        row.sha256 = info.sha256
        session.commit()
    before = (take / "sound").read_bytes()
    halve(take / "sound")
    assert host.view(episode)["takes"][0]["damaged"]
    (mending,) = [j for j in host.client.get("/api/jobs").json() if j["kind"] == "mend"]
    assert host.work(mending["id"])["state"] == "done"
    assert (take / "sound").read_bytes() == before


@pytest.mark.parametrize("make", ["filled", "float"])
def test_half_a_recording_is_told_and_made_anew_from_its_original(host: Host, make: str) -> None:
    episode = host.filled() if make == "filled" else float_episode(host)
    sound = folder(host, episode) / "sound"
    before = sound.read_bytes()
    halve(sound)
    view = host.view(episode)
    assert view["takes"][0]["damaged"]
    mending = [j for j in host.client.get("/api/jobs").json() if j["kind"] == "mend"]
    assert len(mending) == 1
    assert host.work(mending[0]["id"])["state"] == "done"
    assert not host.view(episode)["takes"][0]["damaged"]
    reader = host.state.store.reader(view["takes"][0]["id"])
    assert np.abs(reader.read(4 * RATE, RATE)).max() > 0.01
    assert len(sound.read_bytes()) == len(before)


def test_what_cannot_be_mended_goes_out_only_when_the_host_says_so(host: Host) -> None:
    episode = float_episode(host)
    halve(folder(host, episode) / "sound")
    halve(folder(host, episode) / "original")
    refused = export(host, episode)
    assert refused["state"] == "failed"
    assert "is damaged on the disk" in refused["error"]
    assert "Nothing was exported" in refused["error"]
    said_so = export(host, episode, despite_damage=True)
    assert said_so["state"] == "done", said_so
    view = host.view(episode)
    address = f"/api/episodes/{episode}/audio"
    place = {"revision": view["revision"], "start": 0, "frames": 6 * RATE}
    assert host.client.get(address, params=place).status_code == 200


@pytest.mark.parametrize("make", ["filled", "float"])
def test_a_turned_bit_is_found_before_an_episode_goes_out(host: Host, make: str) -> None:
    """Nothing cheap shows it: only the checksum of all samples does."""
    episode = host.filled() if make == "filled" else float_episode(host)
    sound = folder(host, episode) / "sound"
    turn_a_bit(sound)
    done = export(host, episode)
    assert done["state"] == "done"
    assert not (folder(host, episode) / "damaged").exists()
    take = host.state.store.take(host.view(episode)["takes"][0]["id"])
    assert host.state.store.soundness.is_whole(take)
    turn_a_bit(sound)
    (folder(host, episode) / "original").unlink()
    assert export(host, episode)["state"] == "failed"
    assert host.view(episode)["takes"][0]["damaged"]


@pytest.mark.parametrize("name", ["peaks", "room-tone.json", "listened.json"])
@pytest.mark.parametrize("how", ["halved", "gone", "other", "a turned bit"])
def test_what_is_derived_is_made_anew_where_it_is_broken(host: Host, name: str, how: str) -> None:
    episode = host.filled()
    keep_words(host.state.store, host.view(episode)["takes"][0]["id"], ())
    path = folder(host, episode) / name
    revision = host.view(episode)["revision"]
    span = f"revision={revision}&start=0&frames=288000"
    address = f"/api/episodes/{episode}/skyline?{span}&columns=90"
    before = host.client.get(address).content
    if how == "halved":
        halve(path)
    elif how == "gone":
        path.unlink()
    elif how == "a turned bit":
        if name != "peaks":
            pytest.skip("JSON has no checksum; what is no JSON any more is covered by the others")
        turn_a_bit(path)
    else:
        path.write_bytes(b"{}")
    assert host.client.get(address).content == before
    page = f"/api/episodes/{episode}/page?{span}"
    assert host.client.get(page).json()["room_tones"]
    assert host.client.get(f"/api/episodes/{episode}/snags?revision={revision}").status_code == 200


@pytest.mark.parametrize("damage", [halve, turn_a_bit, lambda p: p.write_bytes(b"x" * 9)])
def test_a_broken_cleaned_recording_is_made_anew_for_an_export(host: Host, damage) -> None:
    episode = host.filled(wav(8))
    keep_words(host.state.store, host.view(episode)["takes"][0]["id"], ())
    track = host.view(episode)["tracks"][0]["id"]
    chain = {"noise": {"on": True, "strength": 0.6}}
    host.edit(episode, {"kind": "set_chain", "track": track, "chain": chain})
    assert export(host, episode)["state"] == "done"
    (clean,) = folder(host, episode).glob("cleaned-*")
    before = clean.read_bytes()
    damage(clean)
    assert export(host, episode)["state"] == "done"
    assert clean.read_bytes() == before


def test_a_broken_measurement_is_measured_anew(host: Host) -> None:
    episode = host.filled()
    revision = host.view(episode)["revision"]
    for _ in range(2):
        address = f"/api/episodes/{episode}/measure"
        job = host.client.post(address, json={"revision": revision}).json()["id"]
        assert host.work(job)["state"] == "done"
        levels = f"/api/episodes/{episode}/levels?revision={revision}"
        assert host.client.get(levels).json()["measured"]
        for profile in (host.state.settings.data_dir / "profiles").iterdir():
            halve(profile)
        assert not host.client.get(levels).json()["measured"]


@pytest.mark.parametrize("where", [0.001, 0.3, 0.9, 0.985, 0.999])
def test_a_turned_bit_anywhere_in_the_peaks_is_found(host: Host, where: float) -> None:
    """In each level of the pyramid, and in the checksum itself."""
    episode = host.filled()
    take = host.view(episode)["takes"][0]["id"]
    path = folder(host, episode) / "peaks"
    whole = path.read_bytes()
    broken = bytearray(whole)
    broken[int(len(broken) * where)] ^= 4
    path.write_bytes(bytes(broken))
    host.state.store.peaks(take)
    assert path.read_bytes() == whole


def test_an_episode_opens_though_a_recording_has_no_header_and_no_peaks(host: Host) -> None:
    episode = host.filled()
    for name in ("peaks", "original"):
        (folder(host, episode) / name).unlink()
    sound = folder(host, episode) / "sound"
    sound.write_bytes(bytes(4096) + sound.read_bytes()[4096:])
    view = host.view(episode)
    assert view["takes"][0]["damaged"]
    span = f"revision={view['revision']}&start=0&frames={view['frames']}"
    for part in ("page", "skyline", "snags", "check", "standing"):
        answer = host.client.get(f"/api/episodes/{episode}/{part}?{span}&columns=90")
        assert answer.status_code == 200, (part, answer.text)
    assert not check_data(host.state.store).sound


PAGE = 4096


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder of data with a show, an episode, its history and a job."""
    folder = tmp_path_factory.mktemp("whole") / "data"
    app = create_app(Settings(data_dir=folder, keep_free_bytes=0), worker=False)
    with TestClient(app, base_url=HERE) as client:
        host = Host(client)
        episode = host.filled()
        for number in range(60):
            host.edit(episode, {"kind": "cut", "start": number * 2400, "frames": 1200})
    with closing(sqlite3.connect(folder / "airtrim.db")) as database:
        database.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return folder


@pytest.mark.parametrize("seed", range(30))
def test_a_page_of_garbage_is_a_message_and_the_rest_opens(
    whole: Path, tmp_path: Path, seed: int
) -> None:
    """Fault injection: one page of the database, or of the queue, is overwritten."""
    data = tmp_path / "data"
    shutil.copytree(whole, data)
    chance = random.Random(seed)
    path = data / ("queue.db" if seed % 5 == 4 else "airtrim.db")
    content = bytearray(path.read_bytes())
    page = chance.randrange(len(content) // PAGE)
    content[page * PAGE : (page + 1) * PAGE] = chance.randbytes(PAGE)
    path.write_bytes(bytes(content))
    before = {p.relative_to(data) for p in (data / "takes").rglob("*")}
    if (app := started(data)) is not None:
        with TestClient(app, base_url=HERE, raise_server_exceptions=False) as client:
            for address in ("/api/shows", "/api/episodes/1", "/api/jobs", "/api/keeping"):
                answer = client.get(address)
                said = answer.text
                assert answer.status_code in (200, 404) or "damaged" in said, (address, said)
            report = check_data(client.app.state.airtrim.store)
            assert report.findings or path.name == "queue.db" or is_unused(data, page)
    assert {p.relative_to(data) for p in (data / "takes").rglob("*")} >= before


def started(data: Path) -> FastAPI | None:
    """The application on a folder; None where it says that the database is damaged."""
    try:
        return create_app(Settings(data_dir=data, keep_free_bytes=0), worker=False)
    except CannotStart as error:
        said = str(error)
    assert "damaged" in said
    return None


def is_unused(data: Path, page: int) -> bool:
    """Whether SQLite itself finds nothing wrong, as with a page that is free."""
    with closing(sqlite3.connect(data / "airtrim.db")) as database:
        return database.execute("PRAGMA integrity_check").fetchone() == ("ok",)


def test_a_damaged_queue_is_set_aside_and_what_waits_is_put_in_line(
    whole: Path, tmp_path: Path
) -> None:
    data = tmp_path / "data"
    shutil.copytree(whole, data)
    for ending in ("-wal", "-shm"):
        (data / f"queue.db{ending}").unlink(missing_ok=True)
    (data / "queue.db").write_bytes(b"garbage" * 3000)
    settings = Settings(data_dir=data, keep_free_bytes=0)
    queue = Queue(Store(data, 0), settings)
    assert (data / "queue.damaged").exists()
    assert queue.waiting == 0
