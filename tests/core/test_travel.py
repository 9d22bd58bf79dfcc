"""What other tools get. Read back by OpenTimelineIO itself, webvtt-py, and Python's csv."""

import csv
import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import opentimelineio as otio
import pytest
import soundfile
import webvtt

from airtrim.core.render.graph import Mix, levelling_curve
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.fields import Tone
from airtrim.core.timeline.edits.gain import GainSpan
from airtrim.core.timeline.edits.markers import AddMarker
from airtrim.core.timeline.edits.room_tone import Cover
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.tracks import SetTrack
from airtrim.core.timeline.model import Timeline
from airtrim.core.travel.cutlist import cut_list
from airtrim.core.travel.places import chapters_vtt, places_csv
from airtrim.core.travel.tracks import write_track
from tests.core.test_editing import LENGTHS, SECOND, four_tracks
from tests.reference import programme

LONG = "Two --> 3 and much more, so that it would not stand in one line of a caption"


def episode() -> Timeline:
    timeline = four_tracks()
    timeline = apply(timeline, Cut(start=10 * SECOND, frames=SECOND))
    tone = Tone(take="a", start=SECOND, frames=SECOND)
    cover = Cover(track=timeline.tracks[0].id, start=3 * SECOND, frames=SECOND, tone=tone)
    timeline = apply(timeline, cover)
    timeline = apply(timeline, AddMarker(at=5 * SECOND, name='=HYPERLINK("x")'))
    return apply(timeline, SetTrack(track=timeline.tracks[1].id, muted=True))


class Take:
    def __init__(self, name: str) -> None:
        self.frames = LENGTHS[name]
        self._sound = programme(self.frames / SECOND, 1, len(name) + ord(name[0]))
        self._sound = self._sound.reshape(self.frames, -1).astype(np.float32)

    def read(self, start: int, frames: int) -> np.ndarray:
        out = np.zeros((frames, self._sound.shape[1]), np.float32)
        part = self._sound[max(0, start) : start + frames]
        out[max(0, -start) : max(0, -start) + len(part)] = part
        return out


def test_the_cut_list_is_read_as_the_document_is() -> None:
    timeline = episode()
    text = cut_list(timeline, "The boat", {"a": "Host.wav", "g": "Guest.wav"})
    read = otio.adapters.read_from_string(text, "otio_json")
    assert read.name == "The boat"
    assert [track.name for track in read.tracks] == [t.name for t in timeline.tracks]
    assert [track.enabled for track in read.tracks] == [not t.muted for t in timeline.tracks]
    for track, ours in zip(read.tracks, timeline.tracks, strict=True):
        found = [
            (
                track.trimmed_range_of_child(item).start_time.value,
                item.source_range.start_time.value,
                item.duration().value,
            )
            for item in track
            if isinstance(item, otio.schema.Clip)
        ]
        wanted = [(c.at, c.start, c.frames) for c in ours.clips if not c.take.startswith("tone")]
        assert found == wanted
    host = next(item for item in read.tracks[0] if isinstance(item, otio.schema.Clip))
    assert host.media_reference.target_url == "Host.wav"
    assert host.media_reference.available_range.duration.value == LENGTHS["a"]
    assert [i.name for i in read.tracks[0] if isinstance(i, otio.schema.Gap)] == ["Room tone", ""]
    parts = [m for m in read.tracks.markers if m.metadata["airtrim"]["kind"] == "part"]
    assert [m.marked_range.start_time.value for m in parts] == [s.at for s in timeline.sections]


def test_chapters_and_places_are_read_as_they_are() -> None:
    timeline = episode()
    starts = [SectionStart(at=0, name="A & <b>"), SectionStart(at=6 * SECOND, name=LONG)]
    timeline = apply(timeline, SetSections(sections=tuple(starts)))
    chapters = webvtt.from_buffer(io.StringIO(chapters_vtt(timeline)))
    assert [(c.start, c.raw_text) for c in chapters] == [
        ("00:00:00.000", "A &amp; &lt;b&gt;"),
        ("00:00:06.000", LONG.replace(">", "&gt;")),
    ]
    assert chapters[-1].end == "00:00:30.000"
    rows = list(csv.DictReader(io.StringIO(places_csv(timeline))))
    assert [(row["kind"], row["name"], row["start_s"]) for row in rows] == [
        ("part", "A & <b>", "0.000000"),
        ("note", '\'=HYPERLINK("x")', "5.000000"),
        ("part", LONG, "6.000000"),
    ]
    assert rows[0]["duration_s"] == "6.000000"
    assert rows[1]["end_s"] == ""


def test_tracks_are_all_as_long_and_together_they_are_the_mix(tmp_path: Path) -> None:
    timeline = apply(episode(), SetTrack(track=episode().tracks[1].id, muted=False))
    louder = GainSpan(tracks=(timeline.tracks[0].id,), start=SECOND, frames=SECOND, by_db=-6)
    timeline = apply(timeline, louder)
    sections = tuple(replace(s, gain_db=float(i)) for i, s in enumerate(timeline.sections))
    timeline = replace(timeline, sections=sections)
    takes = {name: Take(name) for name in LENGTHS}

    def opened(take: str):
        from airtrim.core.sound.fill import made_up
        from airtrim.core.timeline.tone import is_tone

        return made_up(take, takes.__getitem__) if is_tone(take) else takes[take]

    total = np.zeros((timeline.frames, 1))
    for track in timeline.tracks:
        if not len(track.clips):
            continue
        path = tmp_path / f"{track.id}.wav"
        write_track(timeline, track, opened, {}, path, "wav", with_sound=True)
        sound, rate = soundfile.read(path, always_2d=True)
        assert (len(sound), rate) == (timeline.frames, SECOND)
        total += sound
    mix = Mix(timeline, opened).read(0, timeline.frames)
    wanted = mix * levelling_curve(timeline, {}).linear_column(0, timeline.frames)
    assert np.abs(total - wanted).max() < 1e-5


def test_cut_only_is_the_recording_as_it_was(tmp_path: Path) -> None:
    timeline = four_tracks()
    host = replace(timeline.tracks[0], gain_db=-12.0)
    timeline = replace(timeline, tracks=(host, *timeline.tracks[1:]))
    take = Take("a")
    takes = {name: Take(name) for name in LENGTHS}
    path = tmp_path / "host.flac"
    peak = write_track(timeline, host, takes.__getitem__, {}, path, "flac", with_sound=False)
    sound, _ = soundfile.read(path, always_2d=True)
    middle = slice(SECOND, 10 * SECOND)
    assert np.abs(sound[middle] - take.read(SECOND, 9 * SECOND)).max() < 2**-22
    assert len(sound) == timeline.frames
    assert peak == pytest.approx(20 * np.log10(np.abs(sound).max()), abs=0.01)
