"""The main job without a screen: cut, even out, export, tag, and check the file."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal

import typer

from airtrim.cli.base import (
    Ceiling,
    Clean,
    Echo,
    Json,
    Level,
    Sound,
    Target,
    Tidy,
    app,
    bar_on_errors,
    check,
    check_wav,
    errors_reported,
    fail,
    print_report,
    seconds,
    span_of,
)

if TYPE_CHECKING:
    from airtrim.core.timeline.tags import Tags


@app.command()
def produce(
    files: Annotated[list[Path], typer.Argument(help="Sound files, joined in this order.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="OUT.mp3 or OUT.wav.")],
    target: Target = None,
    ceiling: Ceiling = -1.0,
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
    tidy: Tidy = None,
    clean: Clean = None,
    clean_method: Annotated[
        Literal["auto", "steady", "learnt"],
        typer.Option(help="By the noise itself, for steady noise, or for any."),
    ] = "auto",
    echo: Echo = False,
    level: Level = False,
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
        check(file)
    if (tidy or level) and not words:
        what = "Tidying" if tidy else "Levelling phrases"
        fail(f"{what} needs the words: leave --no-words out.")
    report = made(
        files=tuple(files),
        output=output,
        target_lufs=target,
        ceiling_dbtp=ceiling,
        layout=None if stereo is None else "stereo" if stereo else "mono",
        section_starts_s=seconds(sections, ","),
        cuts_s=tuple(span_of(value) for value in cut or ()),
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
        clean_method=clean_method,
        echo=echo,
        level=level,
    )
    print_report(report, as_json)


def made(tags: "Callable[[], Tags] | None" = None, **asked: Any) -> dict[str, Any]:
    """Run the main job with a bar; what is asked for wrongly ends in a sentence."""
    from airtrim.compute.cluster import compute_at
    from airtrim.core.release.produce import Request, run
    from airtrim.settings import Settings

    with errors_reported():
        if tags:
            asked["tags"] = tags()
        request = Request(**asked)
        with bar_on_errors() as bar:
            task = bar.add_task("Starting", total=1.0)
            return run(
                request,
                lambda f, doing: bar.update(task, completed=f, description=doing),
                compute_at(Settings().compute),
            )


@app.command("level")
def level_file(
    file: Sound,
    output: Annotated[Path, typer.Option("-o", "--output", help="OUT.wav.")],
    target: Target = None,
    ceiling: Ceiling = -1.0,
    sections: Annotated[str, typer.Option(help="Starts in seconds: 0,61.2,130")] = "0",
    phrases: Annotated[
        bool, typer.Option("--phrases/--sections-only", help="Bring phrases nearer too.")
    ] = True,
    as_json: Json = False,
) -> None:
    """Even out a sound file: phrases, sections, and the whole to its target."""
    from airtrim.settings import Settings

    check(file)
    check_wav(output)
    report = made(
        files=(file,),
        output=output,
        target_lufs=target,
        ceiling_dbtp=ceiling,
        section_starts_s=seconds(sections, ","),
        model_folder=Settings().model_folder,
        speech_language=Settings().speech_language,
        level=phrases,
    )
    print_report(report, as_json)
