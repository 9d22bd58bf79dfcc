"""Chapters, the check, and one stream for several encoders."""

import json
import threading
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from pydantic import ValidationError

from airtrim.core.loudness.levelling import Levels
from airtrim.core.media.shared import share
from airtrim.core.release.chapters import as_json, as_times, chapters_of
from airtrim.core.release.checkfile import check_file
from airtrim.core.release.checks import Facts, checked, word_for
from airtrim.core.release.formats.mp3 import Mp3
from airtrim.core.release.labels import Labels
from airtrim.core.release.proposing import proposed_chapters
from airtrim.core.timeline.clips import Clip, Clips
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.markers import AddMarker, ChangeMarker, ChapterAt, SetChapters
from airtrim.core.timeline.edits.parts import MovePart
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.edits.restoring import Restore
from airtrim.core.timeline.edits.tracks import SetTrack
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.words import PlacedWord
from tests.core.test_editing import SECOND, four_tracks
from tests.reference import RATE, programme
from tests.standards.test_release_file import TAGS, picture

SHA = "a" * 64


def with_chapters(*places: int) -> Timeline:
    made = tuple(ChapterAt(at=at * SECOND, title=f"At {at}") for at in places)
    return apply(four_tracks(), SetChapters(chapters=made))


def told(timeline: Timeline) -> list[tuple[int, int, str]]:
    return [(c.start, c.end, c.title) for c in chapters_of(timeline)]


def test_chapters_last_to_the_next_and_go_with_the_talk() -> None:
    timeline = with_chapters(0, 3, 9)
    end = timeline.frames
    assert told(timeline) == [
        (0, 3 * SECOND, "At 0"),
        (3 * SECOND, 9 * SECOND, "At 3"),
        (9 * SECOND, end, "At 9"),
    ]
    cut = apply(timeline, Cut(start=SECOND, frames=SECOND))
    assert [start for start, _, _ in told(cut)] == [0, 2 * SECOND, 8 * SECOND]
    # One inside of what is cut goes with it, and comes back with it.
    inside = apply(timeline, Cut(start=2 * SECOND, frames=2 * SECOND))
    assert [title for _, _, title in told(inside)] == ["At 0", "At 9"]
    back = apply(inside, Restore(cut=inside.cuts[0].id))
    assert told(back) == told(timeline)
    # And it goes with its part.
    part = timeline.sections[1]
    at = apply(timeline, AddMarker(marks="chapter", at=part.at + SECOND, name="Inside"))
    moved = apply(at, MovePart(section=part.id, before=timeline.sections[0].id))
    start = next(start for start, _, title in told(moved) if title == "Inside")
    assert start == moved.sections[0].at + SECOND


def test_of_several_at_one_place_one_is_a_chapter_and_none_lies_beyond_the_end() -> None:
    timeline = with_chapters(0, 4, 4)
    timeline = apply(timeline, AddMarker(marks="chapter", at=10**9))
    assert len(timeline.markers) == 4
    assert [start for start, _, _ in told(timeline)] == [0, 4 * SECOND]
    assert timeline.markers[-1].at == timeline.frames
    renamed = apply(
        timeline,
        ChangeMarker(marker=timeline.markers[0].id, name="", link="https://x.example", artwork=SHA),
    )
    first = chapters_of(renamed, {SHA: b"picture"})[0]
    assert (first.title, first.link, first.picture) == (
        "Chapter 1",
        "https://x.example",
        b"picture",
    )
    bare = apply(renamed, ChangeMarker(marker=renamed.markers[0].id, artwork="", link=""))
    assert (bare.markers[0].artwork, bare.markers[0].link) == (None, "")


@pytest.mark.parametrize(
    "wrong",
    [
        {"title": "x" * 121, "at": 0},
        {"at": -1},
        {"at": 0, "link": "javascript:alert(1)"},
        {"at": 0, "artwork": "../../etc/passwd"},
    ],
)
def test_a_chapter_that_cannot_be_is_refused(wrong: dict) -> None:
    with pytest.raises(ValidationError):
        ChapterAt(**wrong)


def test_chapters_as_other_forms_tell_them() -> None:
    """JSON chapters 1.2 of the podcast namespace (from memory): version, startTime in seconds."""
    timeline = apply(
        with_chapters(0, 3),
        SetChapters(
            chapters=(
                ChapterAt(at=0, title="Slack water", artwork=SHA),
                ChapterAt(at=round(3.25 * SECOND), title="Fare", link="https://x.example/fare"),
            )
        ),
    )
    found = chapters_of(timeline)
    assert json.loads(as_json(found, "https://x.example/{sha256}.jpg")) == {
        "version": "1.2.0",
        "chapters": [
            {"startTime": 0.0, "title": "Slack water", "img": f"https://x.example/{SHA}.jpg"},
            {"startTime": 3.25, "title": "Fare", "url": "https://x.example/fare"},
        ],
    }
    assert as_times(found) == "00:00 Slack water\n00:03 Fare"
    late = replace(found[1], start=3600 * RATE)
    assert as_times([found[0], late]) == "00:00:00 Slack water\n01:00:00 Fare"


LEVELS = Levels(
    section_gains_db=(0.0,),
    gain_db=0.0,
    sections_before=(-30.0, -20.0),
    sections_after=(-19.2, -18.9),
    before=-24.0,
    after=-19.0,
    most_limiting_db=1.0,
    curve_before=np.zeros(0),
    curve_after=np.zeros(0),
    momentary_after=np.zeros(0),
)


def facts(**more: object) -> Facts:
    timeline = apply(four_tracks(), SetTags(tags=TAGS))
    host = timeline.tracks[0].id
    timeline = apply(timeline, SetTrack(track=host, name="Tobin"))
    words = [PlacedWord(host, "a", 0, "word", 0, 10, "word", 0.9, False)]
    usual = {
        "timeline": timeline,
        "title": "Slack water",
        "show": "Slow Crossing",
        "words": words,
        "levels": LEVELS,
        "edges": (0, 0),
        "artwork": picture(),
        "behind": 0,
    }
    return Facts(**{**usual, **more})


def line(found: Facts, check: str):
    return next(one for one in checked(found) if one.id == check)


def test_an_episode_with_nothing_wrong_is_ready() -> None:
    lines = checked(facts())
    assert [one.id for one in lines if one.state != "good"] == []
    assert word_for(lines) == "Ready"


@pytest.mark.parametrize(
    ("more", "check", "state", "says"),
    [
        ({"levels": None, "edges": None}, "loudness", "look", "not measured"),
        ({"levels": replace(LEVELS, after=-22.0)}, "loudness", "look", "−22.0 LUFS"),
        ({"levels": replace(LEVELS, after=None)}, "loudness", "stop", "nothing to hear"),
        ({"levels": replace(LEVELS, sections_after=(-19, -25))}, "sections", "look", "6.0 LU"),
        ({"levels": replace(LEVELS, most_limiting_db=9.0)}, "peaks", "look", "9 dB"),
        ({"edges": (5 * RATE, 0)}, "edges", "look", "5.0 s of silence before"),
        ({"edges": (0, 4 * RATE)}, "edges", "look", "4.0 s of silence at its end"),
        ({"transcribed": False}, "snags", "look", "not written down"),
        ({"words": ()}, "words", "look", "no words"),
        ({"timeline": four_tracks()}, "voices", "look", "Host"),
        ({"timeline": four_tracks()}, "title", "stop", "Slack water"),
        ({"timeline": four_tracks()}, "tags", "look", "show, who speaks"),
        ({"taken": frozenset({(TAGS.season, TAGS.episode)})}, "number", "stop", "already"),
        ({"taken": frozenset({(1, TAGS.episode)})}, "number", "good", "no other"),
        ({"artwork": None}, "artwork", "look", "None"),
        ({"artwork": picture((1500, 1400))}, "artwork", "stop", "square"),
        ({"credits": ["Bed by Ole Vik"]}, "credits", "look", "Ole Vik"),
        ({"behind": 2}, "files", "stop", "2 edits behind"),
        ({"behind": None}, "files", "look", "None was made"),
    ],
)
def test_what_is_wrong_is_told(more: dict, check: str, state: str, says: str) -> None:
    found = line(facts(**more), check)
    assert found.state == state
    assert says in found.reason


def test_voices_on_one_track_are_told_by_their_names() -> None:
    (word,) = facts().words
    shared = [word, replace(word, speaker="Ilva"), replace(word, speaker="Voice 2")]
    assert "“Voice 2” is no name" in line(facts(words=shared), "voices").reason
    assert line(facts(words=shared[:2]), "voices").reason == "Tobin, Ilva."


def test_remedies_are_edits_that_put_it_right() -> None:
    silent = facts(edges=(5 * RATE, 0))
    remedy = line(silent, "edges").remedy
    assert remedy is not None
    assert remedy.edit == {"kind": "cut", "start": 0, "frames": 5 * RATE - RATE // 2}
    taken = facts(taken=frozenset({(TAGS.season, TAGS.episode), (TAGS.season, 20)}))
    remedy = line(taken, "number").remedy
    assert remedy is not None
    assert remedy.edit["tags"]["episode"] == 21
    named = facts(credits=["Bed by Ole Vik"])
    remedy = line(named, "credits").remedy
    assert remedy is not None
    assert remedy.edit["tags"]["description"] == f"{TAGS.description}\n\nBed by Ole Vik"
    edit = SetTags.model_validate(remedy.edit)
    assert line(replace(named, timeline=apply(named.timeline, edit)), "credits").state == "good"


def test_chapters_that_players_cannot_show_are_told() -> None:
    def with_marks(*places: float) -> Facts:
        made = tuple(ChapterAt(at=round(at * SECOND), title=f"{at}") for at in places)
        base = facts()
        return replace(base, timeline=apply(base.timeline, SetChapters(chapters=made)))

    late = line(with_marks(0.5, 20), "chapters")
    assert (late.state, late.remedy and late.remedy.edit["at"]) == ("look", 0)
    assert line(with_marks(0, 0.2), "chapters").state == "look"
    assert line(with_marks(0, 3600), "chapters").state == "stop"
    assert line(with_marks(), "chapters").state == "good"


def test_a_finished_file_is_checked_whoever_made_it(tmp_path: Path) -> None:
    sound = programme(4, 1, 3) * np.float32(0.3)
    path = tmp_path / "a.mp3"
    Mp3().write(iter([sound]), path, channels=1, kbits=96)
    assert word_for(check_file(path)) == "Not yet: tags"
    Mp3().label_file(path, Labels(TAGS, picture()))
    found = {one.id: one.state for one in check_file(path)}
    assert (found["tags"], found["artwork"], found["chapters"]) == ("good", "good", "good")
    Mp3().label_file(path, Labels(Tags(title="Only that"), picture()))
    assert "description" in next(one for one in check_file(path) if one.id == "tags").reason


def test_one_stream_reaches_all_and_the_first_error_stops_them() -> None:
    got: list[list[int]] = [[], []]
    share(iter(range(100)), [got[0].extend, got[1].extend])
    assert got == [list(range(100))] * 2
    made = []

    def source():
        for number in range(10_000):
            made.append(number)
            yield number

    def breaks(each) -> None:
        for number in each:
            if number == 5:
                raise OSError("no room")

    before = threading.active_count()
    with pytest.raises(OSError, match="no room"):
        share(source(), [breaks, lambda each: list(each)])
    assert len(made) < 100
    with pytest.raises(ZeroDivisionError):
        share((1 // 0 for _ in range(3)), [lambda each: list(each)])
    assert threading.active_count() == before
    # One that has enough does not hold up the others.
    share(iter(range(100)), [lambda each: next(each), got[0].extend])
    assert len(got[0]) == 200


def test_chapters_are_proposed_where_the_talk_turns_and_called_by_its_words() -> None:
    """Twenty minutes of one part in which three matters are talked of, a pause between each."""
    timeline = replace(
        four_tracks(), sections=(replace(four_tracks().sections[0], at=0, name="The talk"),)
    )
    matters = ("ferry engine diesel piston", "harbour market bread baker", "storm weather forecast")
    words, at = [], 0
    for matter in matters:
        for number in range(800):
            text = matter.split()[number % len(matter.split())] if number % 2 else "really"
            words.append(
                PlacedWord("t1", "a", len(words), text, at, at + RATE // 4, "word", 1, False)
            )
            at += RATE // 2 if number % 20 else RATE * 3 // 2
        at += RATE
    long = replace(timeline, tracks=(_lasting(timeline, at),))
    found = proposed_chapters(long, words)
    assert found[0].title == "The talk"
    turns = [one.at for one in found[1:]]
    wanted = [words[800].start, words[1600].start]
    assert any(abs(turn - wanted[0]) < 20 * RATE for turn in turns)
    assert any(abs(turn - wanted[1]) < 20 * RATE for turn in turns)
    titles = " ".join(one.title.lower() for one in found[1:])
    assert "harbour" in titles or "market" in titles or "bread" in titles
    assert "really" not in titles
    # A short episode is one chapter for each part, and none is nearer than three minutes.
    assert len(proposed_chapters(four_tracks(), [])) == len(four_tracks().sections)
    assert min(b - a for a, b in pairwise([0, *turns])) >= 180 * RATE


def _lasting(timeline: Timeline, frames: int):
    track = timeline.tracks[0]
    return replace(track, clips=Clips([Clip("a", 0, frames, 0)]))
