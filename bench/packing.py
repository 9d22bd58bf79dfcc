"""An episode as one file: a pack beside ``zip -0`` of the same recordings, memory, and a render."""

import hashlib
import shutil
import subprocess
import time
import zipfile
from pathlib import Path

from airtrim.core.media.take import store_take
from airtrim.core.render.graph import render
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.placing import Place
from airtrim.store.packing import pack
from airtrim.store.store import Store
from airtrim.store.tables import TakeRow
from airtrim.store.unpacking import unpack
from bench.measuring import RATE, Row, peak_memory, side_by_side, write_talk

PACK = """
from pathlib import Path
from airtrim.store.packing import pack
from airtrim.store.store import Store
pack(Store(Path({data!r})), 1, Path({file!r}), lambda done, doing: None)
"""
UNPACK = """
from pathlib import Path
from airtrim.store.store import Store
from airtrim.store.unpacking import unpack
unpack(Store(Path({data!r})), Path({file!r}), None, lambda done, doing: None)
"""
_RENDERED_S = 600


def laid_out(data: Path, seconds: float) -> Store:
    """A store with an episode on two tracks."""
    store = Store(data)
    show = store.add_show("Bench")
    store.add_episode(show.id or 0, "Long")
    wav = write_talk(data / "long.wav", seconds)
    for number in range(2):
        name = f"take{number}"
        with store.files.beside() as folder:
            take = folder / "take"
            take.mkdir()
            info = store_take(wav, take / "sound", take / "peaks", name=name)
            shutil.move(take, store.files.take(name))
        with store.changing(1, None) as change:
            change.session.add(TakeRow.of(name, 1, name, info))
            change.session.flush()
            place = Place(take=name, take_frames=info.frames, track_name=f"Voice {number}", at=0)
            change(place)
    wav.unlink()
    for number in range(20):
        store.edit(1, None, Cut(start=(number * 17 + 3) * RATE // 20, frames=RATE // 100))
    return store


def packing(folder: Path, seconds: float = 3 * 3600.0) -> list[Row]:
    """Packing, opening, and whether it is the same episode."""
    store = laid_out(folder / "here", seconds)
    sounds = [store.files.take(f"take{number}") / "sound" for number in range(2)]
    file = folder / "long.airtrim.zip"
    zipped, tool = folder / "zipped.zip", shutil.which("zip")

    def theirs() -> None:
        zipped.unlink(missing_ok=True)
        if tool:
            subprocess.run([tool, "-q", "-0", str(zipped), *map(str, sounds)], check=True)
        else:
            with zipfile.ZipFile(zipped, "w") as made:
                for number, sound in enumerate(sounds):
                    made.write(sound, str(number))

    ours_s, theirs_s = side_by_side(
        lambda: pack(store, 1, file, lambda done, doing: None), theirs, 3
    )
    there = Store(folder / "there")
    began = time.perf_counter()
    opened = unpack(there, file, None, lambda done, doing: None)
    opened_s = time.perf_counter() - began
    same = _rendered(store, 1) == _rendered(there, opened.episode_id)
    store.close()
    there.close()
    packed_mb = peak_memory(PACK.format(data=str(folder / "here"), file=str(file)))
    unpacked_mb = peak_memory(UNPACK.format(data=str(folder / "more"), file=str(file)))
    size_mb = file.stat().st_size / 1e6
    what = f"{seconds / 3600:g} h on two tracks"
    return [
        Row(
            f"Packing {what}, {size_mb:.0f} MB",
            f"{ours_s:.2f} s",
            f"{theirs_s:.2f} s",
            f"{theirs_s / ours_s:.2f} × the speed of {'zip -0' if tool else 'zipfile, stored'}",
            "at least 0.7 ×",
            theirs_s / ours_s >= 0.7,
        ),
        Row(
            "… and opening it, its pictures made anew",
            f"{opened_s:.1f} s",
            "",
            "rendered equal to the bit" if same else "rendered otherwise",
            "equal to the bit",
            same,
        ),
        Row(
            "… memory, packing and opening",
            f"{packed_mb:.0f} and {unpacked_mb:.0f} MB",
            "",
            "",
            "under 300 MB",
            max(packed_mb, unpacked_mb) < 300,
        ),
    ]


def _rendered(store: Store, episode: int) -> str:
    """Checksum of ten minutes from the middle of an episode."""
    timeline = store.current(episode)
    start = max(0, timeline.frames // 2 - _RENDERED_S * RATE // 2)
    digest = hashlib.sha256()
    for block in render(timeline, store.reader, store.words(timeline), start, _RENDERED_S * RATE):
        digest.update(block.tobytes())
    return digest.hexdigest()
