"""The running order of an episode that Air Trim holds."""

from dataclasses import asdict
from typing import Annotated

import typer

from airtrim.cli.base import Data, Json, app, opened, print_report, settings_of_data
from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.holding import spot_of
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.placed import Placed
from airtrim.core.timeline.rundown import Row


@app.command()
def rundown(
    episode: Annotated[int, typer.Argument(help="The number in its address.")],
    data: Data = None,
    as_json: Json = False,
) -> None:
    """The parts of an episode in order: first and last words, who speaks, lengths."""
    from airtrim.services.ordering import rundown_of

    with opened(settings_of_data(data)) as store:
        found = rundown_of(store, episode)
    if as_json:
        rows = {"rows": [_seconds(row) for row in found.rows]}
        aside = {"aside": [_seconds(row) for row in found.aside]}
        wanted = found.timeline.wanted_frames
        lengths = {
            "duration_s": found.timeline.frames / FRAME_RATE,
            "wanted_s": None if wanted is None else wanted / FRAME_RATE,
        }
        sounds = {"sounds": [_sound(found.timeline, one) for one in found.timeline.placed]}
        print_report({**rows, **aside, **sounds, **lengths}, True)
        return
    for number, row in enumerate(found.rows, 1):
        print(f"{number}\t{_line(row)}")
    for row in found.aside:
        print(f"aside\t{_line(row)}")


def _seconds(row: Row) -> dict[str, object]:
    fields = asdict(row)
    at, frames = fields.pop("at"), fields.pop("frames")
    start = None if at is None else at / FRAME_RATE
    return {**fields, "start_s": start, "duration_s": frames / FRAME_RATE}


def _sound(timeline: Timeline, sound: Placed) -> dict[str, object]:
    spot = spot_of(timeline, sound)
    start = None if spot is None else spot.at / FRAME_RATE
    duration = 0.0 if spot is None else spot.frames / FRAME_RATE
    return {
        "name": sound.name,
        "holds": sound.hold.kind,
        "part": sound.hold.part,
        "start_s": start,
        "duration_s": duration,
        "level_lu": sound.level_lu,
        "notice": "" if spot is None else spot.notice,
    }


def _line(row: Row) -> str:
    minutes, seconds = divmod(round(row.frames / FRAME_RATE), 60)
    words = f"“{row.in_words}” … “{row.out_words}”" if row.in_words else "no words"
    who = ", ".join((*row.who, *row.music))
    return f"{row.name}\t{minutes}:{seconds:02}\t{who}\t{words}"
