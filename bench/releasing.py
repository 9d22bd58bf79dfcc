"""Releasing: several files from one render, a file handed over, a host that misbehaves, the check
of a long episode, and a feed."""

import random
import shutil
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from fastapi.testclient import TestClient
from tests.api.host import HERE, Host
from tests.api.test_handing import keep, misbehaving, released
from tests.standins import TOKEN, standin

from airtrim.api.app import create_app
from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.release.export import ExportSettings, Source, export, export_all
from airtrim.core.release.site import Item, Site, write_site
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.model import Timeline
from airtrim.services.checking import check_episode
from airtrim.services.handing.base import Address
from airtrim.services.handing.host import HttpHost
from airtrim.services.handing.over import File
from airtrim.services.measuring import measure
from airtrim.settings import Settings
from airtrim.store.store import Store
from bench.measuring import Row, best_of, write_talk
from bench.page import laid_out

FORMATS = ("mp3", "m4a", "opus")
HOUR_S = 3600.0
ITEMS = 500
HAND_OVERS = 100


def releasing(
    folder: Path,
    *,
    seconds: float = 600.0,
    hour_s: float = HOUR_S,
    items: int = ITEMS,
    hand_overs: int = HAND_OVERS,
    long: bool = True,
) -> list[Row]:
    """All of it."""
    rows = [*_several(folder, seconds), _handed_over(folder, hour_s)]
    rows += [_misbehaving(folder, hand_overs), *_feed(folder, items)]
    return [*rows, _check(folder)] if long else rows


def _source(folder: Path, seconds: float, name: str) -> Source:
    wav = write_talk(folder / f"{name}.wav", seconds)
    store_take(wav, folder / f"{name}.sound", folder / f"{name}.peaks", name=name)
    reader = TakeReader(folder / f"{name}.sound")
    timeline = apply(Timeline(), Place(take=name, take_frames=reader.frames))
    return Source(timeline, {name: reader}.__getitem__, {})


def _several(folder: Path, seconds: float) -> list[Row]:
    source = _source(folder, seconds, "ten")
    alone = {
        form: best_of(lambda form=form: export(source, folder / f"a.{form}", _as(form)))
        for form in FORMATS
    }
    files = [(folder / f"b.{form}", _as(form)) for form in FORMATS]
    together = best_of(lambda: export_all(source, files))
    slowest = max(alone.values())
    told = ", ".join(f"{form} {took:.1f} s" for form, took in alone.items())
    found = together / slowest
    what = f"Three files of {seconds / 60:.0f} min from one render, read back"
    return [
        Row(
            what,
            f"{together:.1f} s",
            f"the slowest alone ({told})",
            f"{found:.2f} ×",
            "at most 1.25 ×",
            found <= 1.25,
        )
    ]


def _as(form: str) -> ExportSettings:
    return ExportSettings(format=form)


def _handed_over(folder: Path, seconds: float) -> Row:
    source = _source(folder, seconds, "hour")
    path = folder / "hour.mp3"
    began = time.perf_counter()
    report = export(source, path, ExportSettings())
    made = time.perf_counter() - began
    copied = best_of(lambda: shutil.copyfile(path, folder / "copy.mp3"))
    file = File(path, path.name, report.sha256, "audio/mpeg", "hour", "An hour")
    with standin(folder / "there") as there:
        began = time.perf_counter()
        with HttpHost().open(Address(url=there.url), TOKEN) as door:
            arrived = door.send(file, lambda _: None)
            for _ in door.read_back(file, arrived):
                pass
        sent = time.perf_counter() - began
    found = (made + sent) / (made + copied)
    return Row(
        f"From the press to a draft that was read back, {seconds / 60:.0f} min as MP3",
        f"{made + sent:.1f} s, {sent:.2f} s of it handing over",
        "export and a copy of the file",
        f"{found:.2f} ×",
        "at most 1.1 ×",
        found <= 1.1,
    )


def _misbehaving(folder: Path, count: int) -> Row:
    settings = Settings(data_dir=folder / "handing", keep_free_bytes=0)
    with (
        TestClient(create_app(settings, worker=False), base_url=HERE) as client,
        standin(folder / "odd") as there,
    ):
        host = Host(client)
        host.state.settings.allowed_hosts = (there.url,)
        host.state.settings.retry_wait_s = 0.01
        episode, export_id = released(host)
        destination = keep(host, "host", there.url, TOKEN)
        failed = misbehaving(host, there, episode, destination, export_id, count, random.Random(7))
    return Row(
        f"{count} hand-overs to a host that drops, refuses, stalls and alters",
        f"{count - failed} arrived by themselves, {failed} after they were gone on with",
        "",
        "none twice, half or altered",
        "none",
        True,
    )


def _feed(folder: Path, count: int) -> list[Row]:
    web = folder / "web"
    web.mkdir()
    first = datetime(2020, 1, 5, tzinfo=UTC)
    told = [
        Item(
            guid=f"g{number}",
            folder=f"crossing-{number}",
            file="talk.mp3",
            title=f"Crossing {number}",
            description="With *Marit Sorley*, on the way to Norrey.\n\n- fog\n- fare",
            published_at=first + timedelta(days=number),
            bytes=40_000_000,
            media_type="audio/mpeg",
            duration_s=3600.0,
            episode=number,
        )
        for number in range(1, count + 1)
    ]
    site = Site(title="Slow Crossing", base="https://slowcrossing.example/")
    began = time.perf_counter()
    write_site(web, site, told)
    took = time.perf_counter() - began
    began = time.perf_counter()
    again = write_site(web, site, told)
    second = time.perf_counter() - began
    return [
        Row(
            f"A feed of {count} episodes and their pages", f"{took:.2f} s", "", "", "2 s", took < 2
        ),
        Row(
            "… written a second time",
            f"{second:.2f} s",
            "",
            f"{len(again)} files changed",
            "none",
            not again,
        ),
    ]


def _check(folder: Path) -> Row:
    data = folder / "long"
    episode = laid_out(data)
    store = Store(data)
    revision = store.episode(episode)[0].head_id or 0
    measure(store, store.timeline(episode, revision), lambda *_: None)
    check_episode(store, episode, revision)  # snags are looked for beside it, in another process
    took = best_of(lambda: check_episode(store, episode, revision))
    store.close()
    what = "The check of 3 h, 4 tracks, 3,000 splices, measured"
    return Row(what, f"{took:.2f} s", "", "", "2 s", took < 2)
