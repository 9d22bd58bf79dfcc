"""What a sound file holds: how loud it is, what is said in it, and what should not be heard."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from airtrim.cli.base import Json, Sound, app, bar_on_errors, check, errors_reported, print_report

if TYPE_CHECKING:
    from airtrim.core.media.take import TakeReader
    from airtrim.core.snags.base import Snag
    from airtrim.core.speech.recognisers import Recogniser
    from airtrim.core.timeline.words import Word


@app.command()
def measure(file: Sound, as_json: Json = False) -> None:
    """Loudness and peaks of a sound file."""
    from airtrim.core.loudness.files import meter_file
    from airtrim.core.loudness.meter import measure as figures

    check(file)
    with errors_reported(), bar_on_errors() as bar:
        task = bar.add_task("Measuring", total=1.0)
        meter = meter_file(file, progress=lambda f: bar.update(task, completed=f))
    print_report(asdict(figures(meter)), as_json)


@contextmanager
def listened_to(
    file: Path, recogniser: "Recogniser | None" = None, language: str = ""
) -> Iterator["tuple[TakeReader, int, tuple[Word, ...]]"]:
    """A file's sound, its length in frames, and its words."""
    import tempfile

    from airtrim.compute.cluster import compute_at
    from airtrim.core.media.take import TakeReader, store_take
    from airtrim.core.speech.recognise import transcribe as recognise
    from airtrim.core.speech.voices import with_voices
    from airtrim.settings import Settings

    check(file)
    with errors_reported(), tempfile.TemporaryDirectory() as folder, bar_on_errors() as bar:
        task = bar.add_task("Listening", total=1.0)
        sound = Path(folder) / "sound"
        info = store_take(file, sound, Path(folder) / "peaks", name=file.name)
        reader = TakeReader(sound)
        settings = Settings()
        compute = compute_at(settings.compute)
        words = recognise(
            reader.read,
            info.frames,
            settings.model_of(recogniser or settings.speech_recogniser),
            language=language or settings.speech_language,
            progress=lambda f: bar.update(task, completed=f),
            compute=compute,
        )
        yield reader, info.frames, with_voices(reader, tuple(words), compute=compute)


@app.command()
def transcribe(
    file: Sound,
    as_json: Json = False,
    careful: Annotated[
        bool,
        typer.Option("--careful", help="By the careful recogniser, which has to be installed."),
    ] = False,
    language: Annotated[
        str, typer.Option(help="Which is spoken (es, de, …); found by itself if it is left out.")
    ] = "",
) -> None:
    """The words of a sound file, its fillers too, with times in seconds and who says each, as a
    number."""
    with listened_to(file, "careful" if careful else None, language) as (_, _, words):
        pass
    if as_json:
        told = [{**_in_seconds(word), "speaker": word.voice or "1"} for word in words]
        print_report({"words": told}, True)
    else:
        print(" ".join(word.text for word in words))


@app.command()
def snags(
    file: Sound,
    as_json: Annotated[bool, typer.Option("--json/--plain", help="JSON, or a list.")] = True,
) -> None:
    """What the listener should not hear in a sound file, with times in seconds."""
    from airtrim.core.snags.find import find_snags
    from airtrim.core.snags.listen import listen
    from airtrim.core.timeline.edits import apply
    from airtrim.core.timeline.edits.placing import Place
    from airtrim.core.timeline.model import Timeline

    with listened_to(file) as (reader, frames, words):
        sounds = listen(reader.read, frames, words)
    timeline = apply(Timeline(), Place(take="file", take_frames=frames))
    found = find_snags(timeline, {"file": words}, {"file": sounds})
    if as_json:
        print_report({"snags": [_in_seconds(snag) for snag in found]}, True)
        return
    for one in map(_in_seconds, found):
        print(f"{one['start']:9.2f} {one['end']:9.2f}  {one['kind']:8}  {one['text']}")


def _in_seconds(one: "Word | Snag") -> dict[str, str | float]:
    from airtrim.core.media import FRAME_RATE

    return {
        "text": one.text,
        "start": round(one.start / FRAME_RATE, 3),
        "end": round(one.end / FRAME_RATE, 3),
        "kind": one.kind,
        "confidence": round(one.confidence, 3),
    }
