"""Taking the room out from under a voice."""

from pathlib import Path
from typing import Annotated, Literal

import typer

from airtrim.cli.base import (
    Json,
    Sound,
    app,
    bar_on_errors,
    check,
    check_wav,
    errors_reported,
    fail,
    print_report,
    span_of,
)


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
    method: Annotated[
        Literal["auto", "steady", "learnt"],
        typer.Option(help="By the noise itself, for steady noise, or for any."),
    ] = "auto",
    echo: Annotated[bool, typer.Option("--echo", help="Lower the echo of the room first.")] = False,
    as_json: Json = False,
) -> None:
    """Take the room out from under a voice."""
    import tempfile

    import soundfile

    from airtrim.compute.cluster import compute_at
    from airtrim.core.media import FRAME_RATE
    from airtrim.core.media.peaks import Peaks
    from airtrim.core.media.take import TakeReader, store_take
    from airtrim.core.sound.choosing import settled
    from airtrim.core.sound.cleaning import made_clean
    from airtrim.core.sound.denoise import FLOOR_DB, Cleaned, share_of
    from airtrim.core.sound.roomtone import RoomTone, find_room_tone
    from airtrim.settings import Settings

    check(file)
    check_wav(output)
    if not output.parent.is_dir():
        fail(f"The folder for “{output.name}” is not there.")
    span = span_of(room_tone) if room_tone else None
    with errors_reported(), tempfile.TemporaryDirectory() as folder, bar_on_errors() as bar:
        compute = compute_at(Settings().compute)
        task = bar.add_task("Taking the room out", total=1.0)
        sound, peaks = Path(folder) / "sound", Path(folder) / "peaks"
        info = store_take(file, sound, peaks, name=file.name)
        take = TakeReader(sound)
        if span:
            start, end = (round(at * FRAME_RATE) for at in span)
            if end > info.frames or end - start < FRAME_RATE // 2:
                fail("The room tone has to be half a second or more within the file.")
            tone: RoomTone | None = RoomTone(start, end - start, 0.0)
        else:
            tone = find_room_tone(Peaks(peaks, info.frames), info.frames, ())
        if echo:
            dry = Path(folder) / "dry"
            made_clean(take, None, None, dry, lambda f: bar.update(task, completed=f), compute)
            take = TakeReader(dry)
        choice = settled(method, [take])
        path = Path(folder) / "clean"
        made_clean(
            take, choice.method, tone, path, lambda f: bar.update(task, completed=f), compute
        )
        cleaned = Cleaned(take, TakeReader(path), share_of(strength))
        with soundfile.SoundFile(str(output), "w", FRAME_RATE, info.channels, "FLOAT") as out:
            for at in range(0, info.frames, FRAME_RATE):
                out.write(cleaned.read(at, min(FRAME_RATE, info.frames - at)))
    report = {
        "output": str(output),
        "echo_lowered": echo,
        "method": choice.method,
        "reason": choice.reason,
        "room_tone_s": [tone.start / FRAME_RATE, (tone.start + tone.frames) / FRAME_RATE]
        if tone and choice.method == "steady"
        else None,
        "lowered_db": round(-FLOOR_DB * strength, 1),
    }
    print_report(report, as_json)
