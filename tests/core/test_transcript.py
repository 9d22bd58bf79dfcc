"""Transcripts in open formats, and a script held against what was said.

What is written is read by webvtt-py and srt, reference libraries; the WebVTT and SRT read here are
made like the examples of W3C's WebVTT and of SubRip (from memory), the JSON like the podcast
namespace's (version 1.0.0, from memory).
"""

import json
from io import StringIO
from itertools import pairwise

import pytest
import srt
import webvtt
from hypothesis import given
from hypothesis import strategies as st

from airtrim.core.release.reading import read_transcript, words_of
from airtrim.core.release.transcript import Cue, cues_of, written
from airtrim.core.speech.script import held_against, placed
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Move
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.words import (
    Correction,
    CorrectMany,
    NameSpeaker,
    RenameSpeaker,
    WordsOfTake,
)
from airtrim.core.timeline.finding import Stretch, rewritten, turns
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.speakers import Voices, renamed, speaker_of, with_speaker
from airtrim.core.timeline.words import PlacedWord, Word, words_on
from airtrim.errors import BadInput
from tests.reference import RATE

NAMES = {"v": "Tobin", "g": "Marit"}


def said(text: str, track: str = "v", start: float = 1.0) -> list[PlacedWord]:
    out, at = [], start
    for number, one in enumerate(text.split()):
        low = round(at * RATE)
        kind = "filler" if one == "um" else "word"
        out.append(PlacedWord(track, "t", number, one, low, low + RATE // 4, kind, 0.9, False))
        at += 0.3
    return out


def test_cues_end_with_sentences_and_hold_two_lines() -> None:
    long = " ".join(["harbour"] * 40)
    cues = cues_of(said(f"So um we go. {long}"), NAMES)
    assert cues[0].text == "So we go."
    assert all(len(cue.text) <= 84 and cue.end - cue.start <= 7 * RATE for cue in cues)
    assert " ".join(cue.text for cue in cues) == f"So we go. {long}"


def test_voices_that_speak_at_once_have_cues_of_their_own() -> None:
    words = sorted(said("one two three.") + said("yes yes.", "g", 1.1), key=lambda w: w.start)
    cues = cues_of(words, NAMES)
    assert [(c.speaker, c.text) for c in cues] == [
        ("Tobin", "one two three."),
        ("Marit", "yes yes."),
    ]


@pytest.mark.parametrize("form", ["vtt", "srt", "json"])
def test_what_is_written_is_read_again(form) -> None:
    cues = [
        Cue(
            48_000, 96_000, "Salt & bread <here> for the crew, who have been up since four", "Tobin"
        ),
        Cue(3600 * RATE + 48, 3601 * RATE, "At six — perhaps.", "Marit"),
    ]
    again = read_transcript(written(cues, form).encode(), f"a.{form}")
    assert [(c.start, c.end, c.speaker) for c in again] == [
        (c.start, c.end, c.speaker) for c in cues
    ]
    assert again[1].text == cues[1].text
    assert "bread" in again[0].text


def test_other_libraries_read_what_is_written() -> None:
    cues = cues_of(said("We leave at six. The boat is small."), NAMES)
    vtt = list(webvtt.from_buffer(StringIO(written(cues, "vtt"))))
    assert [c.text for c in vtt] == ["We leave at six.", "The boat is small."]
    assert vtt[0].start == "00:00:01.000"
    subtitles = list(srt.parse(written(cues, "srt")))
    assert [s.content for s in subtitles] == [c.text for c in vtt]
    assert subtitles[0].start.total_seconds() == 1.0
    found = json.loads(written(cues, "json"))
    assert found["version"] == "1.0.0"
    assert set(found["segments"][0]) == {"speaker", "startTime", "endTime", "body"}


def test_plain_text_has_a_paragraph_for_every_turn() -> None:
    words = [*said("One. Two."), *said("Yes.", "g", 5.0), *said("Three.", "v", 9.0)]
    assert written(cues_of(words, NAMES), "txt") == (
        "Tobin: One. Two.\n\nMarit: Yes.\n\nTobin: Three.\n"
    )


def test_files_of_others() -> None:
    vtt = (
        "WEBVTT - made elsewhere\n\nNOTE nothing\n\nSTYLE\n::cue { color: red }\n\n"
        "intro\n00:01.000 --> 00:04.000 align:start\n- Never drink <i>liquid</i> nitrogen.\n\n"
        "00:00:05.000 --> 00:00:09.000\n<v.loud Marit>It will perforate\nyour stomach.</v>\n"
    )
    first, second = read_transcript(vtt.encode(), "x.vtt")
    assert (first.start, first.end, first.text) == (
        RATE,
        4 * RATE,
        "Never drink liquid nitrogen.",
    )
    assert (second.speaker, second.text) == ("Marit", "It will perforate your stomach.")
    text = "\ufeff1\r\n00:02:17,440 --> 00:02:20,375\r\nTOBIN: We leave\r\nat six.\r\n"
    (cue,) = read_transcript(text.encode(), "x.srt")
    assert (cue.start, cue.speaker, cue.text) == (
        round(137.44 * RATE),
        "TOBIN",
        "We leave at six.",
    )


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("a.vtt", "no header\n", "no WebVTT"),
        ("a.vtt", "WEBVTT\n\n00:05.000 --> 00:04.000\nback\n", "ends before it begins"),
        ("a.vtt", "WEBVTT\n\n", "No words"),
        ("a.srt", "1\n00:0x:01,000 --> 00:00:02,000\nhm\n", "times are broken"),
        ("a.srt", "1\n00:00:09,0 --> 00:00:10,0\na\n\n2\n00:00:01,0 --> 00:00:02,0\nb\n", "order"),
        ("a.json", '{"segments": [{"startTime": "x", "endTime": 2, "body": "b"}]}', "namespace"),
        ("a.json", "[1, 2]", "namespace"),
        ("a.txt", "   \n", "No words"),
        ("a.doc", "hello", "read from"),
    ],
)
def test_broken_files_are_told_plainly(name: str, text: str, says: str) -> None:
    with pytest.raises(BadInput, match=says):
        read_transcript(text.encode(), name)


def test_what_is_no_text_is_told_plainly() -> None:
    with pytest.raises(BadInput, match="UTF-8"):
        read_transcript(b"\xff\xfe\x00W", "a.vtt")


@given(st.binary(max_size=400), st.sampled_from(["vtt", "srt", "json", "txt"]))
def test_nothing_that_is_read_breaks_more_than_itself(data: bytes, form: str) -> None:
    try:
        cues = read_transcript(data, f"a.{form}")
    except BadInput:
        return
    assert all(cue.text for cue in cues)


def test_words_of_cues_are_spread_over_them_and_stay_in_the_recording() -> None:
    words = words_of([Cue(0, RATE, "a bbb"), Cue(RATE, 9 * RATE, "late words here")], 4 * RATE)
    assert [w.text for w in words][:2] == ["a", "bbb"]
    assert words[0].end == words[1].start == RATE // 3
    assert all(w.end <= 4 * RATE for w in words)
    with pytest.raises(BadInput, match="beyond the end"):
        words_of([Cue(9 * RATE, 10 * RATE, "late")], RATE)


# --- a script ---

MEANT = "Every morning at 6 the ferry leaves Norrey. It carries bread, post and eleven families."


def test_a_script_shows_slips_omissions_and_what_came_in() -> None:
    words = said("every morning at six the very ferry leaves nori it carries bread and eleven cows")
    found = held_against(MEANT, words)
    told = [(d.kind, d.said, d.meant) for d in found.differences]
    assert ("came_in", "very", "") in told
    assert ("left_out", "", "post") in told
    assert ("slip", "cows", "families.") in told
    fixed = [found.spelling.get(i, w.text) for i, w in enumerate(words)]
    assert " ".join(fixed) == (
        "Every morning at 6 the very ferry leaves Norrey. It carries bread, and eleven cows"
    )


def test_a_script_of_something_else_is_refused() -> None:
    with pytest.raises(BadInput, match="something else"):
        held_against(MEANT, said("my uncle kept bees upon a roof above our school all summer long"))
    with pytest.raises(BadInput, match="no script"):
        held_against("  ", said("one"))
    with pytest.raises(BadInput, match="No words"):
        held_against(MEANT, [])


def test_text_without_times_is_placed_by_what_was_heard() -> None:
    heard = [
        Word(w.text, w.start, w.end, w.kind, 0.5) for w in said("the fairy leaves at six today")
    ]
    words = placed("The ferry leaves at 6 today.", heard)
    assert [w.text for w in words] == ["The", "ferry", "leaves", "at", "6", "today."]
    assert [w.start for w in words] == pytest.approx([w.start for w in heard], abs=RATE // 10)
    with pytest.raises(BadInput, match="another recording"):
        placed("quite other words stand here", heard)


# --- corrections ---


def test_corrections_keep_punctuation_and_capitals() -> None:
    assert rewritten("Nori,", "Norrey") == "Norrey,"
    assert rewritten("“Fairy", "ferry") == "“Ferry"
    assert rewritten("…", "x") == "x"


def test_words_are_joined_and_split_without_moving_sound() -> None:
    words = {"t": tuple(Word(t, i * RATE, i * RATE + 24_000, "word", 1.0)
                        for i, t in enumerate(["the", "wheel", "house", "cannot"]))}  # fmt: skip
    timeline = apply(Timeline(), Place(take="t", take_frames=5 * RATE))
    corrected = apply(
        timeline,
        CorrectMany(
            words=(
                Correction(take="t", word=1, text="wheelhouse"),
                Correction(take="t", word=2, text=""),
                Correction(take="t", word=3, text="can not"),
            )
        ),
    )
    found = words_on(corrected, words)
    assert [(w.text, w.start, w.end) for w in found] == [
        ("the", 0, 24_000),
        ("wheelhouse", RATE, 2 * RATE + 24_000),
        ("can not", 3 * RATE, 3 * RATE + 24_000),
    ]
    assert [list(t.clips) for t in corrected.tracks] == [list(t.clips) for t in timeline.tracks]


# --- who speaks ---

Run = tuple[int, int, str]


@given(st.lists(st.tuples(st.integers(0, 30), st.integers(0, 8), st.sampled_from(["", "A", "B"]))))
def test_names_of_speakers_are_those_given_last(runs: list[Run]) -> None:
    """Held against a plain table of words."""
    voices: Voices = ()
    table = [""] * 50
    for first, more, name in runs:
        voices = with_speaker(voices, first, first + more, name)
        table[first : first + more + 1] = [name] * (more + 1)
    assert [speaker_of(voices, word) for word in range(50)] == table
    changes = [name for before, name in pairwise(["", *table]) if name != before]
    assert [name for _, name in voices] == changes, "no name is told twice"
    once = [speaker_of(renamed(voices, "A", "C"), word) for word in range(50)]
    assert once == ["C" if name == "A" else name for name in table]


def test_a_guest_on_the_hosts_microphone_is_named_wherever_the_words_go() -> None:
    said = ["We", "leave", "when?", "At", "six.", "Thank", "you."]
    words = {"t": tuple(Word(one, i * RATE, i * RATE + 24_000, "word", 1.0)
                        for i, one in enumerate(said))}  # fmt: skip
    timeline = apply(Timeline(), Place(take="t", take_frames=8 * RATE, track_name="Tobin"))
    named = apply(
        timeline, NameSpeaker(words=(WordsOfTake(take="t", first=3, last=4),), name=" Marit ")
    )
    names = {named.tracks[0].id: "Tobin"}

    def told(timeline: Timeline) -> str:
        return written(cues_of(words_on(timeline, words), names), "txt")

    assert told(named) == "Tobin: We leave when?\n\nMarit: At six.\n\nTobin: Thank you.\n"
    assert turns(words_on(named, words)) == [
        Stretch(0, 2 * RATE + 24_000),
        Stretch(3 * RATE, 4 * RATE + 24_000),
        Stretch(5 * RATE, 6 * RATE + 24_000),
    ]
    moved = apply(named, Move(start=3 * RATE, frames=2 * RATE, to=0, crossfade_frames=0))
    assert told(moved) == "Marit: At six.\n\nTobin: We leave when? Thank you.\n"
    other = apply(named, RenameSpeaker(old="Marit", new="Ilva"))
    assert "Ilva: At six." in told(other)
    assert apply(other, RenameSpeaker(old="Ilva", new="")) == timeline
    assert RenameSpeaker(old="Marit", new="").describe(named) == "Marit is the track’s own voice"
    for take, last, says in (("t", 1, "end before"), ("x", 3, "not in this episode")):
        wrong = NameSpeaker(words=(WordsOfTake(take=take, first=2, last=last),), name="M")
        with pytest.raises(BadInput, match=says):
            apply(timeline, wrong)


BREAKS_OUT = "Tobin\n\n00:09.000 --> 00:10.000\nNobody said this"


@pytest.mark.parametrize("form", ["vtt", "srt", "txt"])
def test_neither_names_nor_words_can_begin_a_cue_of_their_own(form: str) -> None:
    """A speaker's name or a corrected word with line breaks and arrows in it."""
    cues = [
        Cue(RATE, 2 * RATE, "We leave --> at\n\nsix.", BREAKS_OUT),
        Cue(3 * RATE, 4 * RATE, "Yes.", "Marit > all"),
    ]
    text = written(cues, form)
    if form == "vtt":
        found = list(webvtt.from_buffer(StringIO(text)))
        assert [c.start for c in found] == ["00:00:01.000", "00:00:03.000"]
        again = read_transcript(text.encode(), "a.vtt")
        assert again[0].text == "We leave --> at six."
        assert again[1].speaker == "Marit > all"
    elif form == "srt":
        assert [s.start.total_seconds() for s in srt.parse(text)] == [1.0, 3.0]
        assert len(read_transcript(text.encode(), "a.srt")) == 2
    else:
        assert len(text.split("\n\n")) == 2


def test_what_webvtt_escapes_is_read_as_it_was_meant() -> None:
    """W3C WebVTT, section 6.4: character references in cue text."""
    told = "<v Salt &amp; Bread>1 &lt; 2 &amp; 3 &gt; 2&nbsp;!</v>"
    vtt = f"WEBVTT\n\n00:01.000 --> 00:02.000\n{told}\n"
    (cue,) = read_transcript(vtt.encode(), "a.vtt")
    assert cue.speaker == "Salt & Bread"
    assert cue.text == "1 < 2 & 3 > 2 !"
