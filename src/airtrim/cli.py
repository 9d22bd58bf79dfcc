"""The command line, for people who script. Results on standard output, progress on error."""

import json
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal, NoReturn

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from airtrim.errors import AirTrimError

if TYPE_CHECKING:
    from airtrim.core.media.take import TakeReader
    from airtrim.core.timeline.tags import Tags
    from airtrim.core.timeline.words import Word
    from airtrim.settings import Settings

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Air Trim, for scripts.")

Json = Annotated[bool, typer.Option("--json", help="Print JSON on standard output.")]
Sound = Annotated[Path, typer.Argument(help="A sound file.", dir_okay=False)]
_errors = Console(stderr=True)


def _fail(sentence: str) -> NoReturn:
    _errors.print(sentence, style="red", markup=False)
    raise typer.Exit(1)


def _check(path: Path) -> None:
    if not path.is_file():
        _fail(f"“{path.name}” is not there.")


def _check_wav(output: Path) -> None:
    if output.suffix.lower() != ".wav":
        _fail(f"“{output.name}”: the output has to end in .wav.")


def _bar() -> Progress:
    return Progress(
        TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn(), console=_errors
    )


def _show(value: dict[str, Any], as_json: bool) -> None:
    if as_json:
        print(json.dumps(value, ensure_ascii=False, indent=2))
        return
    for key, item in value.items():
        print(f"{key}: {round(item, 2) if isinstance(item, float) else item}")


@app.command()
def measure(file: Sound, as_json: Json = False) -> None:
    """Loudness and peaks of a sound file."""
    from airtrim.core.loudness.files import meter_file
    from airtrim.core.loudness.meter import measure as figures

    _check(file)
    try:
        with _bar() as bar:
            task = bar.add_task("Measuring", total=1.0)
            meter = meter_file(file, progress=lambda f: bar.update(task, completed=f))
    except AirTrimError as error:
        _fail(str(error))
    _show(asdict(figures(meter)), as_json)


@contextmanager
def _listened_to(file: Path) -> Iterator["tuple[TakeReader, int, tuple[Word, ...]]"]:
    """A file's sound, its length in frames, and its words."""
    import tempfile

    from airtrim.core.media.take import TakeReader, store_take
    from airtrim.core.speech.recognise import transcribe as recognise
    from airtrim.settings import Settings

    _check(file)
    try:
        with tempfile.TemporaryDirectory() as folder, _bar() as bar:
            task = bar.add_task("Listening", total=1.0)
            sound = Path(folder) / "sound"
            info = store_take(file, sound, Path(folder) / "peaks", name=file.name)
            reader = TakeReader(sound)
            settings = Settings()
            words = recognise(
                reader.read,
                info.frames,
                settings.model_folder,
                language=settings.speech_language,
                progress=lambda f: bar.update(task, completed=f),
            )
            yield reader, info.frames, tuple(words)
    except AirTrimError as error:
        _fail(str(error))


@app.command()
def transcribe(file: Sound, as_json: Json = False) -> None:
    """The words of a sound file, its fillers too, with times in seconds."""
    from airtrim.core.media import FRAME_RATE

    with _listened_to(file) as (_, _, words):
        pass
    if not as_json:
        print(" ".join(word.text for word in words))
        return
    told = [
        {
            "text": word.text,
            "start": round(word.start / FRAME_RATE, 3),
            "end": round(word.end / FRAME_RATE, 3),
            "kind": word.kind,
            "confidence": round(word.confidence, 3),
        }
        for word in words
    ]
    print(json.dumps({"words": told}, ensure_ascii=False, indent=2))


@app.command()
def snags(
    file: Sound,
    as_json: Annotated[bool, typer.Option("--json/--plain", help="JSON, or a list.")] = True,
) -> None:
    """What the listener should not hear in a sound file, with times in seconds."""
    from airtrim.core.media import FRAME_RATE
    from airtrim.core.snags.find import find_snags
    from airtrim.core.snags.listen import listen
    from airtrim.core.timeline.edits import apply
    from airtrim.core.timeline.edits.placing import Place
    from airtrim.core.timeline.model import Timeline

    with _listened_to(file) as (reader, frames, words):
        heard = listen(reader.read, frames, words)
    timeline = apply(Timeline(), Place(take="file", take_frames=frames))
    found = [
        {
            "kind": snag.kind,
            "start": round(snag.start / FRAME_RATE, 3),
            "end": round(snag.end / FRAME_RATE, 3),
            "text": snag.text,
            "confidence": round(snag.confidence, 3),
        }
        for snag in find_snags(timeline, {"file": words}, {"file": heard})
    ]
    if as_json:
        print(json.dumps({"snags": found}, ensure_ascii=False, indent=2))
        return
    for one in found:
        print(f"{one['start']:9.2f} {one['end']:9.2f}  {one['kind']:8}  {one['text']}")


@app.command()
def produce(
    files: Annotated[list[Path], typer.Argument(help="Sound files, joined in this order.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="OUT.mp3 or OUT.wav.")],
    target: Annotated[float | None, typer.Option(help="LUFS; by layout if not given.")] = None,
    ceiling: Annotated[float, typer.Option(help="Highest true peak, dBTP.")] = -1.0,
    stereo: Annotated[
        bool | None, typer.Option("--stereo/--mono", help="By the files if not given.")
    ] = None,
    sections: Annotated[str, typer.Option(help="Starts in seconds: 0,61.2,130")] = "0",
    cut: Annotated[list[str] | None, typer.Option(help="START-END in seconds, of the raw.")] = None,
    kbits: Annotated[
        int | None, typer.Option(help="MP3 rate, 64 to 192; 96 mono, 128 stereo if not given.")
    ] = None,
    id3: Annotated[Literal["2.3", "2.4"], typer.Option(help="2.3 or 2.4.")] = "2.3",
    words: Annotated[bool, typer.Option(help="Hear the words, so no gain changes in one.")] = True,
    tidy: Annotated[
        Literal["gentle", "close"] | None, typer.Option(help="Settle snags: gentle or close.")
    ] = None,
    clean: Annotated[
        float | None, typer.Option(help="Lower the room, 0 to 1.", min=0.0, max=1.0)
    ] = None,
    level: Annotated[bool, typer.Option("--level", help="Bring phrases nearer first.")] = False,
    title: str = "",
    artist: str = "",
    show: str = "",
    album_artist: str = "",
    season: int | None = None,
    episode: int | None = None,
    year: int | None = None,
    genre: str = "",
    description: str = "",
    language: str = "",
    copyright: str = "",
    link: str = "",
    artwork: Annotated[Path | None, typer.Option(help="JPEG or PNG, square.")] = None,
    as_json: Json = False,
) -> None:
    """The main job without a screen: cut, even out, export, tag, and check the file."""
    from airtrim.core.timeline.tags import Tags
    from airtrim.settings import Settings

    for file in [*files, *([artwork] if artwork else [])]:
        _check(file)
    if (tidy or level) and not words:
        what = "Tidying" if tidy else "Levelling phrases"
        _fail(f"{what} needs the words: leave --no-words out.")
    report = _made(
        files=tuple(files),
        output=output,
        target_lufs=target,
        ceiling_dbtp=ceiling,
        layout=None if stereo is None else "stereo" if stereo else "mono",
        section_starts_s=_seconds(sections, ","),
        cuts_s=tuple(_span(value) for value in cut or ()),
        kbits=kbits,
        id3_version=id3,
        tags=lambda: Tags(
            title=title,
            show=show,
            artist=artist,
            album_artist=album_artist,
            season=season,
            episode=episode,
            year=year,
            genre=genre,
            description=description,
            language=language,
            copyright=copyright,
            link=link,
        ),
        artwork=artwork.read_bytes() if artwork else None,
        model_folder=Settings().model_folder if words else None,
        speech_language=Settings().speech_language,
        tidy=tidy,
        clean=clean,
        level=level,
    )
    _show(report, as_json)


def _made(tags: "Callable[[], Tags] | None" = None, **asked: Any) -> dict[str, Any]:
    """Run the main job with a bar; what is asked for wrongly ends in a sentence."""
    from pydantic import ValidationError

    from airtrim.core.release.produce import Request, run

    try:
        if tags:
            asked["tags"] = tags()
        request = Request(**asked)
        with _bar() as bar:
            task = bar.add_task("Starting", total=1.0)
            return run(request, lambda f, doing: bar.update(task, completed=f, description=doing))
    except ValidationError as error:
        first = error.errors()[0]
        _fail(f"{'.'.join(map(str, first['loc']))}: {first['msg']}.")
    except AirTrimError as error:
        _fail(str(error))


@app.command("clean")
def clean_file(
    file: Sound,
    output: Annotated[Path, typer.Option("-o", "--output", help="OUT.wav.")],
    strength: Annotated[
        float, typer.Option(help="How far the room is lowered.", min=0.0, max=1.0)
    ] = 0.6,
    room_tone: Annotated[
        str | None, typer.Option(help="START-END in seconds; found if not given.")
    ] = None,
    as_json: Json = False,
) -> None:
    """Take the room out from under a voice."""
    import tempfile

    import soundfile

    from airtrim.core.media import FRAME_RATE
    from airtrim.core.media.peaks import Peaks
    from airtrim.core.media.take import TakeReader, store_take
    from airtrim.core.sound.cleaning import made_clean
    from airtrim.core.sound.denoise import FLOOR_DB, Cleaned, share_of
    from airtrim.core.sound.roomtone import RoomTone, find_room_tone

    _check(file)
    _check_wav(output)
    if not output.parent.is_dir():
        _fail(f"The folder for “{output.name}” is not there.")
    span = _span(room_tone) if room_tone else None
    try:
        with tempfile.TemporaryDirectory() as folder, _bar() as bar:
            task = bar.add_task("Taking the room out", total=1.0)
            sound, peaks = Path(folder) / "sound", Path(folder) / "peaks"
            info = store_take(file, sound, peaks, name=file.name)
            take = TakeReader(sound)
            if span:
                start, end = (round(at * FRAME_RATE) for at in span)
                if end > info.frames or end - start < FRAME_RATE // 2:
                    _fail("The room tone has to be half a second or more within the file.")
                tone: RoomTone | None = RoomTone(start, end - start, 0.0)
            else:
                tone = find_room_tone(Peaks(peaks, info.frames), info.frames, ())
            path = Path(folder) / "clean"
            made_clean(take, tone, path, lambda f: bar.update(task, completed=f))
            cleaned = Cleaned(take, TakeReader(path), share_of(strength))
            with soundfile.SoundFile(str(output), "w", FRAME_RATE, info.channels, "FLOAT") as out:
                for at in range(0, info.frames, FRAME_RATE):
                    out.write(cleaned.read(at, min(FRAME_RATE, info.frames - at)))
    except AirTrimError as error:
        _fail(str(error))
    report = {
        "output": str(output),
        "room_tone_s": [tone.start / FRAME_RATE, (tone.start + tone.frames) / FRAME_RATE]
        if tone
        else None,
        "lowered_db": round(-FLOOR_DB * strength, 1),
    }
    _show(report, as_json)


@app.command("level")
def level_file(
    file: Sound,
    output: Annotated[Path, typer.Option("-o", "--output", help="OUT.wav.")],
    target: Annotated[float | None, typer.Option(help="LUFS; by layout if not given.")] = None,
    ceiling: Annotated[float, typer.Option(help="Highest true peak, dBTP.")] = -1.0,
    sections: Annotated[str, typer.Option(help="Starts in seconds: 0,61.2,130")] = "0",
    phrases: Annotated[
        bool, typer.Option("--phrases/--sections-only", help="Bring phrases nearer too.")
    ] = True,
    as_json: Json = False,
) -> None:
    """Even out a sound file: phrases, sections, and the whole to its target."""
    from airtrim.settings import Settings

    _check(file)
    _check_wav(output)
    report = _made(
        files=(file,),
        output=output,
        target_lufs=target,
        ceiling_dbtp=ceiling,
        section_starts_s=_seconds(sections, ","),
        model_folder=Settings().model_folder,
        speech_language=Settings().speech_language,
        level=phrases,
    )
    _show(report, as_json)


def _seconds(text: str, separator: str) -> tuple[float, ...]:
    try:
        return tuple(float(part) for part in text.split(separator))
    except ValueError:
        _fail(f"“{text}” is not a list of seconds.")


def _span(text: str) -> tuple[float, float]:
    parts = _seconds(text, "-")
    if len(parts) != 2 or parts[0] >= parts[1]:
        _fail(f"“{text}” is not a span: write START-END in seconds, like 12.5-13.1.")
    return parts[0], parts[1]


@app.command()
def serve(
    port: Annotated[int | None, typer.Option(help="Port, 8765 if not given.")] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of data.")] = None,
    host: Annotated[
        str | None, typer.Option(help="Address; others than 127.0.0.1 need a token.")
    ] = None,
) -> None:
    """Start Air Trim and its worker."""
    from airtrim.api.serving import serve as serve_until_stopped
    from airtrim.logs import set_up

    settings = _settings(port=port, data_dir=data, host=host)
    set_up(settings.log_format, settings.log_level)
    try:
        serve_until_stopped(settings, lambda address: _errors.print(f"Air Trim is at {address}"))
    except AirTrimError as error:
        _fail(str(error))


def _settings(**given: Any) -> "Settings":
    """Settings from the environment, with what was given on the command line over them."""
    from pydantic import ValidationError

    from airtrim.settings import Settings

    try:
        found = Settings()
    except ValidationError as error:
        first = error.errors()[0]
        _fail(f"AIRTRIM_{str(first['loc'][0]).upper()}: {first['msg']}.")
    return found.model_copy(update={k: v for k, v in given.items() if v is not None})


Data = Annotated[Path | None, typer.Option("--data", help="Folder of data.")]


@app.command()
def backup(
    target: Annotated[Path, typer.Argument(help="A folder of backups, or a file: NAME.zip.")],
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Back up all data, also while Air Trim runs. A folder takes in what is new only."""
    from airtrim.store.backup import back_up

    root = _settings(data_dir=data).data_dir
    with _told(), _bar() as bar:
        done = back_up(root, target, _filling(bar, "Backing up"))
    _show({**asdict(done), "made_at": done.made_at.isoformat()}, as_json)


@app.command()
def restore(
    source: Annotated[Path, typer.Argument(help="A folder of backups, or a zip of one.")],
    data: Data = None,
    replace: Annotated[
        bool, typer.Option("--replace", help="Move aside what is in the folder of data.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Put the newest backup into the folder of data; every file is held against its checksum."""
    from airtrim.store.backup import restore as put_back

    root = _settings(data_dir=data).data_dir
    with _told(), _bar() as bar:
        files = put_back(source, root, replace=replace, progress=_filling(bar, "Restoring"))
    _show({"restored": str(root), "files": files}, as_json)


@app.command("check-data")
def check_all(
    data: Data = None,
    repair: Annotated[
        bool, typer.Option("--repair", help="Make anew what can be; end Air Trim first.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Look through all data: checksums, rows and files, histories. Exit code 1 where something is
    wrong."""
    from airtrim.store.checking import check_data
    from airtrim.store.lock import FolderLock
    from airtrim.store.store import Store

    settings = _settings(data_dir=data)
    root = settings.data_dir
    if not (root / "airtrim.db").exists():
        _fail(f"There are no data of Air Trim in “{root}”.")
    with _told(), _bar() as bar:
        lock = FolderLock(root) if repair else None
        store = Store(root, settings.keep_free_bytes)
        found = check_data(store, repair=repair, progress=_filling(bar, "Checking"))
        store.close()
        if lock:
            lock.release()
    if as_json:
        _show({"sound": found.sound, **asdict(found)}, True)
    else:
        for finding in found.findings:
            print(f"{finding.what}{' It was made anew.' if finding.repaired else ''}")
        counted = f"{found.episodes} episodes, {found.edits} changes, {found.takes} recordings"
        print(f"Checked {counted}: {'all is well.' if found.sound else 'see above.'}")
    if not found.sound:
        raise typer.Exit(1)


@contextmanager
def _told() -> Iterator[None]:
    """An error ends in its sentence."""
    try:
        yield
    except AirTrimError as error:
        _fail(str(error))
    except OSError as error:
        _fail(f"“{error.filename}”: {error.strerror}.")


def _filling(bar: Progress, doing: str) -> Callable[[float, str], None]:
    task = bar.add_task(doing, total=1.0)
    return lambda fraction, now: bar.update(task, completed=fraction, description=now)


@app.command()
def demo(
    port: Annotated[int | None, typer.Option(help="Port, 8765 if not given.")] = None,
    data: Annotated[Path, typer.Option(help="Folder of data.")] = Path(".demo"),
    fill_only: Annotated[bool, typer.Option(help="Lay out the data and stop.")] = False,
) -> None:
    """Start Air Trim with the demo episode."""
    from airtrim.demo import fill, source

    try:
        fill(data, source())
    except AirTrimError as error:
        _fail(str(error))
    if not fill_only:
        serve(port=port, data=data)


@app.command(hidden=True)
def openapi() -> None:
    """Print the description of the API that the interface's client is made from."""
    import tempfile

    from airtrim.api.app import create_app
    from airtrim.settings import Settings

    with tempfile.TemporaryDirectory() as folder:
        json.dump(create_app(Settings(data_dir=Path(folder)), worker=False).openapi(), sys.stdout)
