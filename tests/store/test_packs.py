"""Episodes as files: the same on another machine, and nothing of a broken or hostile one."""

import hashlib
import io
import json
import shutil
import stat
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

from airtrim.core.render.graph import render
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.fields import Tone
from airtrim.core.timeline.edits.room_tone import AddAir
from airtrim.errors import AirTrimError, BadInput, NotFound, StoreFull
from airtrim.services.shelving import shelve_shipped, use_sound
from airtrim.store.checking import check_data
from airtrim.store.packformat import HISTORY, MANIFEST, Manifest
from airtrim.store.packing import pack
from airtrim.store.store import Store
from airtrim.store.unpacking import renamed, unpack
from tests.commands import airtrim
from tests.serving import RATE


def nobody(fraction: float, doing: str) -> None:
    assert 0 <= fraction <= 1


@pytest.fixture
def here(tmp_path: Path, laid_out: Path) -> Iterator[Store]:
    """The demo, with a cut, made-up room tone, a sound from the shelf, and an edit undone."""
    shutil.copytree(laid_out, tmp_path / "here")
    store = Store(tmp_path / "here")
    store.edit(1, None, Cut(start=20 * RATE, frames=RATE))
    tone = Tone(take="guest", start=RATE, frames=RATE)
    track = store.current(1).tracks[1].id
    store.edit(1, None, AddAir(at=120 * RATE, frames=RATE // 2, tones={track: tone}))
    shelve_shipped(store, 1)
    use_sound(store, 1, store.sounds(1)[0].id)
    store.edit(1, None, Cut(start=30 * RATE, frames=RATE))
    store.undo(1, store.episode(1)[0].head_id or 0)
    yield store
    store.close()


@pytest.fixture
def there(tmp_path: Path) -> Iterator[Store]:
    store = Store(tmp_path / "there")
    yield store
    store.close()


def sound(store: Store, episode: int) -> np.ndarray:
    timeline = store.current(episode)
    return np.concatenate(
        list(render(timeline, store.reader, store.words(timeline), 100 * RATE, 30 * RATE))
    )


def test_it_is_the_same_episode_on_another_machine_to_the_bit(
    here: Store, there: Store, tmp_path: Path
) -> None:
    file = tmp_path / "crossing.airtrim.zip"
    packed = pack(here, 1, file, nobody)
    assert zipfile.ZipFile(file).testzip() is None
    opened = unpack(there, file, None, nobody)
    assert (opened.title, opened.takes) == ("The six o’clock boat", packed.takes)
    assert opened.edits == packed.edits
    assert np.array_equal(sound(there, opened.episode_id), sound(here, 1))
    assert there.current(opened.episode_id) == here.current(1)
    episode, show = there.episode(opened.episode_id)
    assert show.name == "Slow Crossing"
    # Its whole history as well: what was undone can be done again, and all of it undone.
    assert [(one.name, one.done) for one in there.history(opened.episode_id)] == [
        (one.name, one.done) for one in here.history(1)
    ]
    there.redo(opened.episode_id, episode.head_id or 0)
    here.redo(1, here.episode(1)[0].head_id or 0)
    assert there.current(opened.episode_id) == here.current(1)
    assert there.current(opened.episode_id).artwork
    assert check_data(there).findings == ()


def test_opened_where_it_came_from_it_is_another_episode_with_recordings_of_its_own(
    here: Store, tmp_path: Path
) -> None:
    file = tmp_path / "crossing.airtrim.zip"
    pack(here, 1, file, nobody)
    opened = unpack(here, file, 1, nobody)
    assert opened.episode_id != 1
    assert not {t.id for t in here.takes(1)} & {t.id for t in here.takes(opened.episode_id)}
    assert np.array_equal(sound(here, opened.episode_id), sound(here, 1))
    assert check_data(here).findings == ()
    before = here.current(1)
    here.edit(opened.episode_id, None, Cut(start=0, frames=RATE))
    assert here.current(1) == before


def test_what_language_the_words_are_in_goes_along_and_packs_of_before_open(
    here: Store, tmp_path: Path
) -> None:
    here.set_words("guest", here.words_of("guest") or (), "es", "careful")
    file = tmp_path / "a.zip"
    pack(here, 1, file, nobody)

    def of_before(files: dict[str, bytes]) -> None:
        takes = json.loads(files[MANIFEST])["takes"]
        for take in takes:
            del take["language"], take["recogniser"]
        told(files, version=1, takes=takes)

    old = rewritten(file, tmp_path / "old.zip", of_before)
    for number, (one, known) in enumerate(((file, ("es", "careful")), (old, ("", "")))):
        there = Store(tmp_path / f"there-{number}")
        opened = unpack(there, one, None, nobody)
        (guest,) = (t for t in there.takes(opened.episode_id) if t.name == "Guest")
        assert (guest.language, guest.recogniser) == known
        there.close()


def test_recordings_are_renamed_where_they_are_named_and_nowhere_else() -> None:
    edit = {
        "take": "host",
        "name": "Cut host from host: 3 times",
        "tones": {"t1": {"take": "tone/host/0/48000/3"}},
        "corrections": {"host:12": "host"},
        "clips": [["clean/host/0/0/0.5", 1], ["hostel", 2]],
    }
    assert renamed(edit, {"host": "new"}) == {
        "take": "new",
        "name": "Cut host from host: 3 times",
        "tones": {"t1": {"take": "tone/new/0/48000/3"}},
        "corrections": {"new:12": "new"},
        "clips": [["clean/new/0/0/0.5", 1], ["hostel", 2]],
    }


def rewritten(
    file: Path, target: Path, change: Callable[[dict[str, bytes]], dict[str, bytes] | None]
) -> Path:
    """The pack with its files changed, by name; its checksums are made right again."""
    with zipfile.ZipFile(file) as from_:
        files = {info.filename: from_.read(info) for info in from_.infolist()}
    files = change(files) or files
    manifest = json.loads(files[MANIFEST])
    for told in manifest["files"]:
        data = files.get(told["path"], b"")
        told.update(bytes=len(data), sha256=hashlib.sha256(data).hexdigest())
    files[MANIFEST] = json.dumps(manifest).encode()
    with zipfile.ZipFile(target, "w") as to:
        for name, data in files.items():
            to.writestr(name, data)
    return target


def history(files: dict[str, bytes], change: Callable[[list[dict]], None]) -> None:
    lines = [json.loads(line) for line in files[HISTORY].splitlines()]
    change(lines)
    files[HISTORY] = b"".join(json.dumps(line).encode() + b"\n" for line in lines)


def told(files: dict[str, bytes], **values: object) -> None:
    files[MANIFEST] = json.dumps({**json.loads(files[MANIFEST]), **values}).encode()


BROKEN: dict[str, tuple[Callable[[dict[str, bytes]], object], str]] = {
    "no manifest": (lambda f: f.pop(MANIFEST) and told(f), "no packed episode"),
    "newer": (lambda f: told(f, version=3), "newer Air Trim"),
    "another format": (lambda f: told(f, format="other"), "cannot be read"),
    "a file is missing": (lambda f: f.pop("takes/guest/sound"), "missing from the pack"),
    "no sound": (lambda f: f.update({"takes/guest/sound": b"fLaC" * 99}), "damaged"),
    "half the sound": (
        lambda f: f.update({"takes/guest/sound": f["takes/guest/sound"][:99_999]}),
        "damaged",
    ),
    "odd words": (lambda f: f.update({"takes/guest/words.json": b"[[1]]"}), "cannot be read"),
    "odd cover": (
        lambda f: f.update({name: b"no picture" for name in f if name.startswith("artwork/")}),
        "damaged",
    ),
    "no history": (lambda f: f.update({HISTORY: b"{}\n"}), "cannot be read"),
    "an edit of tomorrow": (
        lambda f: history(f, lambda lines: lines[-1]["edit"].update(kind="beam_up")),
        "cannot be read any more",
    ),
    "a hole in the history": (
        lambda f: history(f, lambda lines: lines[1].update(parent=999)),
        "does not hold together",
    ),
    "stands nowhere": (lambda f: told(f, head=999), "a change that is not there"),
}


@pytest.mark.parametrize("what", BROKEN)
def test_a_broken_pack_is_refused_in_a_sentence_and_leaves_nothing(
    here: Store, there: Store, tmp_path: Path, what: str
) -> None:
    file = tmp_path / "good.zip"
    pack(here, 1, file, nobody)
    change, sentence = BROKEN[what]
    if what == "no manifest":
        bad = tmp_path / "bad.zip"
        with zipfile.ZipFile(bad, "w") as to:
            to.writestr("readme.txt", "hello")
    else:

        def made(files: dict[str, bytes]) -> dict[str, bytes]:
            change(files)
            return files

        bad = rewritten(file, tmp_path / "bad.zip", made)
    with pytest.raises(BadInput, match=sentence) as error:
        unpack(there, bad, None, nobody)
    assert "Nothing was opened." in str(error.value)
    left_nothing(there)


def left_nothing(store: Store) -> None:
    assert store.shows() == []
    for folder in ("takes", "tmp", "artwork"):
        assert list((store.files.root / folder).iterdir()) == []


def test_a_wrong_checksum_is_found(here: Store, there: Store, tmp_path: Path) -> None:
    file = tmp_path / "good.zip"
    pack(here, 1, file, nobody)
    data = bytearray(file.read_bytes())
    at = data.find(b"fLaC") + 50_000
    data[at] ^= 1
    file.write_bytes(bytes(data))
    with pytest.raises(BadInput, match="Nothing was opened"):
        unpack(there, file, None, nobody)
    left_nothing(there)


@pytest.mark.parametrize("name", ["../out", "/etc/out", "a/../../out", "a\\..\\out"])
def test_paths_that_lead_out_are_refused(there: Store, tmp_path: Path, name: str) -> None:
    bad = tmp_path / "bad.zip"
    with zipfile.ZipFile(bad, "w") as file:
        file.writestr(name, "x")
    with pytest.raises(BadInput, match="outside itself"):
        unpack(there, bad, None, nobody)
    left_nothing(there)
    assert not (tmp_path / "out").exists()


def test_links_and_bombs_are_refused(here: Store, there: Store, tmp_path: Path) -> None:
    link = zipfile.ZipInfo("takes/a/sound")
    link.external_attr = (stat.S_IFLNK | 0o777) << 16
    bad = tmp_path / "link.zip"
    with zipfile.ZipFile(bad, "w") as file:
        file.writestr(link, "/etc/passwd")
    with pytest.raises(BadInput, match="links"):
        unpack(there, bad, None, nobody)
    good = tmp_path / "good.zip"
    pack(here, 1, good, nobody)
    with zipfile.ZipFile(good) as from_:
        manifest = json.loads(from_.read(MANIFEST))
    bomb = tmp_path / "bomb.zip"
    zeros = bytes(50_000_000)
    for one in manifest["files"]:
        one.update(bytes=len(zeros), sha256=hashlib.sha256(zeros).hexdigest())
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr(MANIFEST, json.dumps(manifest))
        for one in manifest["files"][:2]:
            file.writestr(one["path"], zeros)
    with pytest.raises(BadInput, match=r"unfolds|missing"):
        unpack(there, bomb, None, nobody)
    left_nothing(there)


@pytest.mark.parametrize("data", [b"", b"PK", b"no zip at all" * 50, b"PK\x05\x06" + bytes(18)])
def test_what_is_no_zip_is_refused(there: Store, tmp_path: Path, data: bytes) -> None:
    bad = tmp_path / "bad.zip"
    bad.write_bytes(data)
    with pytest.raises(BadInput, match="no packed episode"):
        unpack(there, bad, None, nobody)


def test_random_damage_opens_the_same_or_nothing(here: Store, tmp_path: Path) -> None:
    """A byte at random in each: what opens is the episode, and the rest is refused."""
    good = tmp_path / "good.zip"
    pack(here, 1, good, nobody)
    data = good.read_bytes()
    rng = np.random.default_rng(5)
    refused = 0
    # Near the ends, where what is told of the files lies; the middle is sound.
    places = [*rng.integers(0, 2_000, 15), *rng.integers(len(data) - 4_000, len(data), 25)]
    for number, at in enumerate(places):
        bad = tmp_path / "bad.zip"
        bad.write_bytes(data[:at] + bytes([data[at] ^ 0x41]) + data[at + 1 :])
        store = Store(tmp_path / f"there-{number}")
        try:
            opened = unpack(store, bad, None, nobody)
            assert store.current(opened.episode_id) == here.current(1)
        except BadInput:
            refused += 1
            left_nothing(store)
        store.close()
    assert refused > 10


def test_a_disk_that_is_full_is_told_and_leaves_nothing(
    here: Store, there: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file = tmp_path / "crossing.airtrim.zip"
    pack(here, 1, file, nobody)
    monkeypatch.setattr(there.files, "free", lambda: 1_000_000)
    with pytest.raises(StoreFull, match="nearly full"):
        unpack(there, file, None, nobody)
    monkeypatch.undo()
    left_nothing(there)
    with pytest.raises(BadInput, match="cannot be written"):
        pack(here, 1, tmp_path / "nowhere" / "a.zip", nobody)


def test_it_is_given_up_in_the_middle_and_leaves_nothing(
    here: Store, there: Store, tmp_path: Path
) -> None:
    file = tmp_path / "crossing.airtrim.zip"

    class GivenUp(AirTrimError):
        pass

    def enough(fraction: float, doing: str) -> None:
        if fraction > 0.5:
            raise GivenUp

    with pytest.raises(GivenUp):
        pack(here, 1, file, enough)
    assert [p.name for p in tmp_path.iterdir() if p.suffix in (".zip", ".part")] == []
    pack(here, 1, file, nobody)
    with pytest.raises(GivenUp):
        unpack(there, file, None, enough)
    left_nothing(there)


def test_a_recording_that_is_missing_is_told(here: Store, tmp_path: Path) -> None:
    (here.files.take("guest") / "sound").unlink()
    with pytest.raises(NotFound, match="“Guest” is missing"):
        pack(here, 1, tmp_path / "a.zip", nobody)
    assert not list(tmp_path.glob("*.zip*"))


def test_the_schema_is_that_of_the_format() -> None:
    kept = Path(__file__).parents[2] / "docs" / "episode-pack.schema.json"
    assert json.loads(kept.read_text()) == Manifest.model_json_schema()


def test_by_the_command_line(here: Store, tmp_path: Path) -> None:
    file, data = tmp_path / "a.airtrim.zip", here.files.root
    done = airtrim("pack", "1", "-o", str(file), "--data", str(data), "--json")
    assert json.loads(done.stdout)["edits"] == len(here.history(1))
    there = tmp_path / "elsewhere"
    opened = airtrim("unpack", str(file), "--data", str(there), "--json")
    assert json.loads(opened.stdout)["episode_id"] == 1
    buffer = io.BytesIO(b"junk")
    (tmp_path / "junk.zip").write_bytes(buffer.getvalue())
    failed = airtrim("unpack", str(tmp_path / "junk.zip"), "--data", str(there))
    assert failed.returncode != 0
    assert "no packed episode" in failed.stderr
