"""The document alone: edits on three hours, four tracks, 3,000 splices, and back again."""

import random
import time

import numpy as np

from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.clips import Split
from airtrim.core.timeline.edits.cutting import Cut, CutAlone, Move
from airtrim.core.timeline.edits.fields import Tone
from airtrim.core.timeline.edits.gain import FadeSpan, GainSpan
from airtrim.core.timeline.edits.markers import AddMarker
from airtrim.core.timeline.edits.parts import MovePart
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.restoring import MoveEdges, Restore, SetSplice
from airtrim.core.timeline.edits.room_tone import AddAir, Cover, SetAir, Silence
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.sounds import HoldOn, PlaceSound
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.placed import Duck
from airtrim.core.timeline.talk import Talk
from airtrim.errors import BadInput
from bench.measuring import Row

RATE = 48_000
SPLICES = 3_000
PARTS = 40
THREE_HOURS = 3 * 3600 * RATE


def long_document(splices: int = SPLICES, frames: int = THREE_HOURS) -> Timeline:
    """Four voices throughout, cut ``splices`` times."""
    timeline = Timeline()
    for number in range(4):
        timeline = apply(
            timeline,
            Place(take=f"take{number}", take_frames=frames, track_name=f"Voice {number}", at=0),
        )
    for at in sorted(random.Random(1).sample(range(RATE, frames - RATE, 24_000), splices))[::-1]:
        timeline = apply(timeline, Cut(start=at, frames=9_600))
    return timeline


def some_edit(timeline: Timeline, rng: random.Random):
    """One of the edits that a host makes on the Page."""
    start = rng.randrange(timeline.frames - 20 * RATE)
    frames = rng.randrange(2_400, 3 * RATE)
    track = rng.choice(timeline.tracks)
    cut = timeline.cuts[rng.randrange(len(timeline.cuts))]
    tone = Tone(take="take0", start=RATE, frames=RATE)
    tones = {t.id: tone for t in timeline.tracks}
    return rng.choice(
        [
            lambda: Cut(start=start, frames=frames),
            lambda: Restore(cut=cut.id),
            lambda: MoveEdges(cut=cut.id, left=480),
            lambda: SetSplice(at=cut.at, crossfade_frames=960),
            lambda: Cover(track=track.id, start=start, frames=frames, tone=tone),
            lambda: Silence(tracks=(track.id,), start=start, frames=frames),
            lambda: CutAlone(track=track.id, start=start, frames=frames),
            lambda: AddAir(at=start, frames=frames, tones=tones),
            lambda: SetAir(start=start, frames=frames, to_frames=1_200, tones=tones),
            lambda: Move(start=start, frames=frames, to=rng.randrange(timeline.frames)),
            lambda: GainSpan(tracks=(track.id,), start=start, frames=frames, by_db=-3),
            lambda: FadeSpan(tracks=(track.id,), start=start, frames=frames, inwards=True),
            lambda: Split(at=start),
            lambda: AddMarker(at=start),
        ]
    )()


def reordering(timeline: Timeline, moves: int) -> list[float]:
    """Milliseconds of putting parts before others at random."""
    rng = random.Random(3)
    starts = [SectionStart(at=timeline.frames * number // PARTS) for number in range(PARTS)]
    if len(timeline.sections) < PARTS:
        timeline = apply(timeline, SetSections(sections=tuple(starts)))
    times: list[float] = []
    while len(times) < moves:
        part, other = (rng.choice(timeline.sections).id for _ in range(2))
        began = time.perf_counter()
        try:
            timeline = apply(timeline, MovePart(section=part, before=other))
        except BadInput:
            continue
        times.append((time.perf_counter() - began) * 1000)
    return times


def with_sounds(timeline: Timeline) -> Timeline:
    """The same in forty parts with twelve placed sounds of every kind, which follow each edit."""
    starts = [SectionStart(at=timeline.frames * number // PARTS) for number in range(PARTS)]
    timeline = apply(timeline, SetSections(sections=tuple(starts)))
    words = [(at, at + RATE // 2) for at in range(0, THREE_HOURS, 3 * RATE // 2)]
    talk = {f"take{number}": Talk.of_words(words) for number in range(4)}
    for number in range(12):
        kind = ("before_talk", "after_talk", "under", "between", "time")[number % 5]
        part = None if kind == "time" else timeline.sections[3 * number].id
        place = PlaceSound(
            take="music",
            take_frames=40 * RATE,
            name="Bed",
            frames=30 * RATE,
            hold=HoldOn(kind=kind, part=part, at=number * RATE),
            gain_db=-6.0,
            duck=Duck() if number % 2 else None,
            talk=talk,
        )
        timeline = apply(timeline, place)
    return timeline


def document(edits: int = 1000, splices: int = SPLICES) -> list[Row]:
    """``edits`` at random, timed; then back through all of them."""
    rng = random.Random(7)
    timeline = long_document(splices)
    states, made, times = [timeline], [], []
    while len(times) < edits:
        edit = some_edit(timeline, rng)
        began = time.perf_counter()
        try:
            after = apply(timeline, edit)
        except BadInput:
            continue
        times.append(time.perf_counter() - began)
        timeline = after
        made.append(edit)
        states.append(timeline)
    # Undo is going back to the state before; that state has to be what the edits make of it again.
    again = long_document(splices)
    same = again == states[0]
    for edit, state in zip(made[:100], states[1:101], strict=True):
        again = apply(again, edit)
        same = same and again == state
    reorder_ms = reordering(long_document(splices), edits // 5)
    reorder_p95 = float(np.percentile(reorder_ms, 95))
    sounds_ms = reordering(with_sounds(long_document(splices)), edits // 5)
    sounds_p95 = float(np.percentile(sounds_ms, 95))
    p95 = float(np.percentile(times, 95)) * 1000
    size = f"3 h, 4 tracks, {splices:,} splices"
    return [
        Row(
            f"Any edit on {size}: p95 of {edits:,}",
            f"{p95:.1f} ms",
            "",
            f"median {np.median(times) * 1000:.1f} ms",
            "under 10 ms",
            p95 < 10,
        ),
        Row(
            f"A part of {PARTS} put elsewhere, {size}: p95 of {len(reorder_ms)}",
            f"{reorder_p95:.1f} ms",
            "",
            f"median {np.median(reorder_ms):.1f} ms",
            "under 20 ms",
            reorder_p95 < 20,
        ),
        Row(
            f"… with twelve placed sounds that follow: p95 of {len(sounds_ms)}",
            f"{sounds_p95:.1f} ms",
            "",
            f"median {np.median(sounds_ms):.1f} ms",
            "under 20 ms",
            sounds_p95 < 20,
        ),
        Row("The same edits again: the same document", "equal", "", "", "equal", same),
    ]
