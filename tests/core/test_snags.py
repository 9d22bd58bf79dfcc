"""Snags: the demo's planted mistakes are found where they are, nothing else is, and deciding does
what it says. The truth is exact: each mistake was put there to the sample."""

import re
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import soundfile
import soxr
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from airtrim.core.snags.base import Snag
from airtrim.core.snags.decide import Decision, decided, tidy
from airtrim.core.snags.find import find_snags, kept
from airtrim.core.snags.kinds.repeats import Repeats
from airtrim.core.snags.listen import Listened, Phrase, jumps, listen
from airtrim.core.snags.pauses import NATURAL_PAUSE_FRAMES, closed_up, trimmed_air
from airtrim.core.snags.repeats import repeats
from airtrim.core.snags.talk import talk_of
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.fields import SpanToCut
from airtrim.core.timeline.edits.placing import MarkerAt, Place, Record, RecordedTake
from airtrim.core.timeline.edits.snags import SetSnagRules, Tidy
from airtrim.core.timeline.finding import next_place, plain
from airtrim.core.timeline.model import OwnFiller, Timeline
from airtrim.core.timeline.words import PlacedWord, Word, air_between, words_on
from airtrim.errors import BadInput
from tests.reference import RATE

_WORDS = TypeAdapter(tuple[Word, ...])
TAKES = ("host-opening", "guest", "host-bridge", "host-closing")
FINISHED = ("There are eleven families on Norrey. They share one", "You have to be")
"""The recogniser writes them as finished sentences, which are never cut by themselves."""
INAUDIBLE = [("guest", 9.7336), ("guest", 84.296)]
"""Breaths 2 dB over the room they lie in."""


@pytest.fixture(scope="module")
def words(demo) -> dict[str, tuple[Word, ...]]:
    return {t: _WORDS.validate_json((demo / "words" / f"{t}.json").read_text()) for t in TAKES}


@pytest.fixture(scope="module")
def listened(demo, words) -> dict[str, Listened]:
    out = {}
    for take in TAKES:
        sound, rate = soundfile.read(demo / "sound" / f"{take}.flac", dtype="float32")
        out[take] = heard_in(soxr.resample(sound, rate, RATE), words[take])
    return out


def heard_in(sound: np.ndarray, words: tuple[Word, ...]) -> Listened:
    at_48 = sound.astype(np.float32).reshape(len(sound), -1)
    return listen(lambda at, frames: at_48[at : at + frames], len(at_48), words)


def placed(take: str, frames: int, timeline: Timeline = Timeline(), track: str = "Voice"):
    return apply(timeline, Place(take=take, take_frames=frames, track_name=track))


def alone(take: str, words: dict[str, tuple[Word, ...]]) -> Timeline:
    return placed(take, words[take][-1].end + 3 * RATE)


def said(text: str, gap: float = 0.1, each: float = 0.25, start: float = 1.0) -> tuple[Word, ...]:
    """Words one after another; "|" is a pause of 0.6 s, "~" one of 3 s, "(um)" a filler."""
    out, at = [], start
    for one in text.split():
        if one in "|~":
            at += 0.6 if one == "|" else 3.0
            continue
        kind = "filler" if one.startswith("(") else "word"
        out.append(Word(one.strip("()"), round(at * RATE), round((at + each) * RATE), kind, 0.9))
        at += each + gap
    return tuple(out)


def talk(text: str, **more) -> tuple[Timeline, dict[str, tuple[Word, ...]]]:
    own = said(text, **more)
    return placed("t", own[-1].end + RATE), {"t": own}


def as_placed(words: tuple[Word, ...]) -> list[PlacedWord]:
    return [
        PlacedWord("v", "t", i, w.text, w.start, w.end, w.kind, w.confidence, False)
        for i, w in enumerate(words)
    ]


def overlapping(snags, kind: str, mistake: dict) -> list[Snag]:
    low, high = mistake["start"] * RATE, mistake["end"] * RATE
    return [s for s in snags if s.kind == kind and s.start < high and s.end > low]


def tidied(timeline: Timeline, words, listened, how: str):
    snags = find_snags(timeline, words, listened)
    return tidy(talk_of(timeline, words), snags, how)


# --- what is found ---


def test_the_planted_mistakes_of_the_demo_are_found(words, listened, mistakes) -> None:
    """Repeats, air, knock, cough and clipping all; fillers to nine in ten of those that stand
    alone; breaths as far as they can be heard. Air to 30 ms."""
    missed: dict[str, list] = {}
    counts: dict[str, int] = {}
    for take in TAKES:
        snags = find_snags(alone(take, words), words, listened)
        for mistake in mistakes[take]:
            kind = {"knock": "noise", "cough": "noise"}.get(mistake["kind"], mistake["kind"])
            if kind == "filler" and mistake["joined"]:
                kind = "joined"
            counts[kind] = counts.get(kind, 0) + 1
            found = overlapping(snags, "filler" if kind == "joined" else kind, mistake)
            if not found and (take, mistake["start"]) not in INAUDIBLE:
                missed.setdefault(kind, []).append((take, mistake["start"]))
            if kind == "air" and found:
                assert abs(found[0].start - mistake["start"] * RATE) < 0.25 * RATE
    missed.pop("joined", None)  # what is found of these stands in docs/speech-quality.md
    assert counts["repeat"] == 7
    assert counts["air"] == 9
    assert missed == {}, counts


def test_hardly_anything_else_is_found(words, listened, mistakes) -> None:
    """At most one a minute of what the demo's script did not plant. Air it has by itself, between
    its sentences, is air all the same; the closing was recorded too hot."""
    others = []
    minutes = 0.0
    for take in TAKES:
        minutes += words[take][-1].end / RATE / 60
        for snag in find_snags(alone(take, words), words, listened):
            near = [
                m
                for m in mistakes[take]
                if m["start"] < snag.end / RATE + 0.1 and m["end"] > snag.start / RATE - 0.1
            ]
            if (
                not near
                and snag.kind != "air"
                and (take, snag.kind) != ("host-closing", "clipping")
            ):
                others.append((take, snag.kind, round(snag.start / RATE, 1)))
    assert len(others) <= minutes, others


@pytest.mark.parametrize(
    ("text", "attempts"),
    [
        ("we went to the | we went to the island by boat", ["we went to the"]),
        ("it was a gr- it was a great day for it", ["it was a gr-"]),
        ("the boat | the boat is | the boat is late again", ["the boat", "the boat is"]),
        ("I think the the ferry is late", ["the"]),
        (
            "The ferry leaves at six in the morning. ~ The ferry leaves at seven in the morning.",
            ["The ferry leaves at six in the morning."],
        ),
    ],
)
def test_repeats(text: str, attempts: list[str]) -> None:
    own = as_placed(said(text))
    (found,) = repeats(own)
    texts = [" ".join(w.text for w in own[a:b]) for a, b in found.attempts]
    assert texts[:-1] == attempts
    assert found.attempts[-1][1] == len(own)


@pytest.mark.parametrize(
    "text",
    [
        "nobody asked her to do it and nobody paid her for it",
        "first we burned the fence (um) and then we burned the chairs",
        "it was very very cold and I had had enough of it",
        "no no that is not what I meant. Oh no.",
        "she went up the hill and he went down the hill to the sea",
        "the wind and the weather and the names of the ships",
        "I like tea. I like coffee. I like both with milk.",
        "the more you ask the more you hear about the old boats",
    ],
)
def test_words_that_come_again_on_purpose_are_no_repeats(text: str) -> None:
    assert repeats([w for w in as_placed(said(text)) if w.kind == "word"]) == []


PASSAGES = [
    line
    for line in (Path(__file__).parent / "parallel.txt").read_text().splitlines()
    if line and not line.startswith("#")
]


@pytest.mark.parametrize(("comma_s", "stop_s"), [(0.0, 0.3), (0.2, 0.5), (0.35, 0.8), (0.1, 1.2)])
def test_parallel_sentences_lists_and_names_are_no_repeats(comma_s: float, stop_s: float) -> None:
    """190 passages of normal speech at four paces; the last 40 were written after the rule was
    settled. At most one is proposed, and none is sure."""
    proposed = [
        (line, repeat.confidence)
        for line in PASSAGES
        for repeat in repeats(as_placed(paced(line, comma_s, stop_s)))
    ]
    assert len(PASSAGES) == 190
    assert len(proposed) <= 1, proposed
    assert [one for one in proposed if one[1] >= Repeats.gentle] == []


def paced(text: str, comma_s: float, stop_s: float) -> tuple[Word, ...]:
    """Words one after another, with pauses where the text has them."""
    out, at = [], 1.0
    for one in text.split():
        out.append(Word(one, round(at * RATE), round((at + 0.25) * RATE), "word", 0.9))
        at += 0.27 + (stop_s if one[-1] in ".?!" else comma_s if one[-1] == "," else 0.0)
    return tuple(out)


SENTENCES = [text.strip() for line in PASSAGES for text in re.findall(r"[^.?!]+[.?!]", line)]


@given(st.sampled_from(SENTENCES), st.sampled_from(SENTENCES), st.floats(0.0, 6.0))
def test_a_finished_sentence_is_never_cut_by_itself(one: str, other: str, pause_s: float) -> None:
    """Whatever follows it, and however long the pause is; but for what a flag points at, which is
    not sure either."""
    for flagged in (lambda a, b: False, lambda a, b: True):
        own = as_placed(paced(f"{one} {other}", 0.1, pause_s))
        for repeat in repeats(own, flagged):
            if repeat.attempts[0][1] == len(one.split()):
                assert repeat.confidence < Repeats.gentle


@pytest.mark.parametrize(
    "text",
    [
        "we went to the, | we went to the island",
        "Before I could sit, | before I could sit down, she handed me a rope.",
        "I, I think the ferry is late",
        "It belongs to, it belongs to my cousin on the hill.",
        "The crossing takes for. | The crossing takes forty minutes.",
        "And then the money went. the money went to another valley.",
        "You have to be. | You have to be a little bit in love with it.",
        "The boat left the harbour at ten past six. ~ The boat left the harbour at ten past six.",
        "And the guest on the pier was very kind. | And the guest on the pier was very kind to me.",
    ],
)
def test_retakes_are_found_whatever_a_recogniser_writes_at_their_end(text: str) -> None:
    assert len(repeats(as_placed(said(text, gap=0.02)))) == 1


def test_what_somebody_else_says_again_is_no_repeat() -> None:
    """As in a real conversation: "originally from Chicago. I'm originally from Chicago also"."""
    own = as_placed(said("and I am originally from Chicago | I am originally from Chicago also"))
    assert repeats(own)
    second = [replace(w, speaker="Voice 2" if i > 5 else "Voice 1") for i, w in enumerate(own)]
    assert repeats(second) == []
    interrupted = as_placed(said("we went to the | we went to the island"))
    assert repeats(interrupted)
    middle = [replace(w, speaker="B" if i == 3 else "A") for i, w in enumerate(interrupted)]
    assert repeats(middle) == []


def test_a_flag_set_while_recording_says_where_to_look() -> None:
    """Too little alike to be found by itself."""
    text = "so we took the boat to his island | so we took that boat over to my island at last"
    own = as_placed(said(text))
    unsure = repeats(own)
    noted = repeats(own, lambda a, b: True)
    assert len(noted) == 1
    assert not unsure or unsure[0].confidence < noted[0].confidence
    frames = own[-1].end + RATE
    timeline = apply(
        Timeline(),
        Record(
            takes=(RecordedTake(take="t", track_name="Voice"),),
            frames=frames,
            markers=(MarkerAt(at=own[7].end, kind="flag", name="Mistake"),),
        ),
    )
    (snag,) = [s for s in find_snags(timeline, {"t": said(text)}, {}) if s.kind == "repeat"]
    assert "flagged" in snag.reason


def test_own_fillers_and_their_place() -> None:
    timeline, words = talk("So the boat is you know late. So what. I said so to them.")
    rules = SetSnagRules(
        air_limit_s=1.5, own_fillers=(OwnFiller("you know"), OwnFiller("so", at_start=True))
    )
    found = find_snags(apply(timeline, rules), words, {})
    assert [(s.kind, s.text) for s in found] == [
        ("filler", "So"),
        ("filler", "you know"),
        ("filler", "So"),
    ]


def test_air_is_none_where_music_plays_or_another_speaks() -> None:
    host = said("one two three ~ four five six")
    frames = host[-1].end + RATE
    timeline = placed("t", frames)
    (air, *_) = [s for s in find_snags(timeline, {"t": host}, {}) if s.kind == "air"]
    assert (air.start, air.end) == (host[2].end, host[3].start)
    assert air.cut_end - air.cut_start == air.end - air.start - NATURAL_PAUSE_FRAMES
    guest = said("and then I said that of course it was", start=2.2, gap=0.2)
    with_guest = apply(timeline, Place(take="g", take_frames=frames, track_name="Guest", at=0))
    both = {"t": host, "g": guest}
    assert not [s for s in find_snags(with_guest, both, {}) if s.kind == "air"]
    music = Place(take="m", take_frames=frames, track_name="Bed", track_kind="music", at=0)
    assert not [s for s in find_snags(apply(timeline, music), {"t": host}, {}) if s.kind == "air"]


def test_a_filler_under_another_voice_is_covered_not_cut() -> None:
    host = said("one two (um) three")
    timeline = placed("t", host[-1].end + RATE)
    over = said("indeed indeed indeed indeed", start=1.2)
    timeline = apply(
        timeline, Place(take="g", take_frames=over[-1].end + RATE, track_name="Guest", at=0)
    )
    (snag,) = [s for s in find_snags(timeline, {"t": host, "g": over}, {}) if s.kind == "filler"]
    assert snag.does == "cover"
    assert "cut" not in snag.choices
    with pytest.raises(BadInput, match="cannot be settled like that"):
        decided([Decision(snag, "cut")])


def test_a_cut_through_a_word_is_found_and_put_back() -> None:
    timeline, words = talk("one two three four")
    whole = words["t"][2]
    through = Cut(start=whole.start + 6000, frames=RATE // 2)
    found = [s for s in find_snags(apply(timeline, through), words, {}) if s.kind == "word"]
    assert [s.text for s in found] == ["three"]
    back = apply(apply(timeline, through), decided([Decision(found[0], "restore")]))
    assert [list(t.clips) for t in back.tracks] == [list(t.clips) for t in timeline.tracks]
    clean = Cut(start=words["t"][1].end, frames=whole.start - words["t"][1].end)
    assert not [s for s in find_snags(apply(timeline, clean), words, {}) if s.kind == "word"]


def test_sounds_between_words() -> None:
    """Made up: a breath is a swell of noise, a click two milliseconds, clipping a flat top."""
    rng = np.random.default_rng(5)
    sound = 0.0004 * rng.standard_normal(12 * RATE)
    own = tuple(Word("aa", round(t * RATE), round((t + 0.5) * RATE), "word", 1.0)
                for t in (1.0, 4.0, 7.0, 10.0))  # fmt: skip
    for word in own:
        time = np.arange(word.end - word.start) / RATE
        buzz = sum(np.sin(2 * np.pi * 120 * k * time) / k for k in range(1, 20))
        sound[word.start : word.end] += 0.08 * buzz
    breath = rng.standard_normal(round(0.4 * RATE)) * np.hanning(round(0.4 * RATE))
    sound[round(2.4 * RATE) :][: len(breath)] += 0.006 * breath
    sound[round(5.5 * RATE) :][:96] += 0.2 * rng.standard_normal(96)
    clipped = np.clip(1.6 * np.sin(2 * np.pi * 220 * np.arange(RATE // 4) / RATE), -1, 1)
    sound[round(10.1 * RATE) :][: len(clipped)] = clipped
    found = heard_in(sound, own).sounds
    assert [s.kind for s in found] == ["breath", "noise", "clipping"]
    assert found[0].start / RATE == pytest.approx(2.4, abs=0.15)
    assert found[1].start / RATE == pytest.approx(5.5, abs=0.03)
    assert found[2].start / RATE == pytest.approx(10.1, abs=0.02)


def test_nothing_is_made_up_of_silence_noise_or_music() -> None:
    rng = np.random.default_rng(6)
    time = np.arange(5 * RATE) / RATE
    for sound in (
        np.zeros(5 * RATE),
        0.1 * rng.standard_normal(5 * RATE),
        0.2 * np.sin(2 * np.pi * 330 * time) * (1 + np.sin(2 * np.pi * 2 * time)),
    ):
        assert heard_in(sound, ()) == Listened()
    timeline = placed("t", 5 * RATE)
    assert find_snags(timeline, {"t": ()}, {"t": Listened()}) == ()


def test_level_jumps_are_where_a_voice_stays_elsewhere() -> None:
    assert jumps([-25, -24, -26, -25, -16, -17, -15], 6.0) == [(4, 7, pytest.approx(9))]
    assert jumps([-25, -24, -12, -25, -24], 6.0) == []  # one loud word
    assert jumps([-25, -26, -17, -16, -25, -24], 6.0) == [(2, 4, pytest.approx(9.0))]
    own = said("a b c | d e f | g h i | j k l | m n o", each=0.5)
    phrases = tuple(
        Phrase(own[i].start, own[i + 2].end, -25.0 + (8.0 if i >= 9 else 0.0))
        for i in range(0, 15, 3)
    )
    timeline = placed("t", own[-1].end + RATE)
    found = find_snags(timeline, {"t": own}, {"t": Listened((), phrases)})
    (jump,) = [s for s in found if s.kind == "level"]
    assert jump.start == own[9].start
    assert jump.by_db == pytest.approx(8.0)
    evened = apply(timeline, decided([Decision(jump, "level")]))
    after = find_snags(evened, {"t": own}, {"t": Listened((), phrases)})
    assert not [s for s in after if s.kind == "level"]


# --- what is decided ---


@given(
    gaps=st.tuples(st.integers(0, 3 * RATE), st.integers(0, 3 * RATE)),
    length=st.integers(RATE // 10, RATE),
    most=st.integers(RATE // 4, RATE),
)
def test_closing_up_leaves_a_natural_pause_and_touches_no_word(gaps, length, most) -> None:
    before, start = 1000, 1000 + gaps[0]
    end = start + length
    after = end + gaps[1]
    low, high = closed_up(before, start, end, after, most)
    assert before <= low <= start
    assert end <= high <= after
    assert (low - before) + (after - high) <= max(most, 0)


@given(length=st.integers(RATE, 9 * RATE), left=st.integers(1000, RATE))
def test_trimmed_air_leaves_what_it_says(length: int, left: int) -> None:
    for start, total in ((0, 60 * RATE), (5 * RATE, 60 * RATE), (5 * RATE, 5 * RATE + length)):
        low, high = trimmed_air(start, start + length, left, total)
        assert length - (high - low) == left
    assert trimmed_air(0, length, left, 60 * RATE)[0] == 0


def test_either_attempt_of_a_repeat_can_stay() -> None:
    text = "Well. | the boat is | the boat is late today. ~ And then it came."
    timeline, words = talk(text)
    (snag,) = [s for s in find_snags(timeline, words, {}) if s.kind == "repeat"]

    def left(attempt: int) -> str:
        edit = decided([Decision(snag, "cut", attempt)])
        after = apply(timeline, edit)
        return " ".join(w.text for w in words_on(after, words))

    assert left(-1) == "Well. the boat is late today. And then it came."
    assert left(0) == "Well. the boat is And then it came."


def test_what_was_kept_stays_kept_through_edits_and_a_new_search() -> None:
    timeline, words = talk("one two (um) three ~ four (uh) five ~ six")
    snags = find_snags(timeline, words, {})
    um = next(s for s in snags if s.text == "um")
    timeline = apply(timeline, decided([Decision(um, "keep")]))
    first = words["t"][0]
    timeline = apply(timeline, Cut(start=first.start, frames=first.end - first.start))
    # Heard anew, its edges come out 30 ms elsewhere.
    again = tuple(
        replace(w, start=w.start + 1440, end=w.end + 1440) if w.text == "um" else w
        for w in words["t"]
    )
    found = find_snags(timeline, {"t": again}, {})
    assert [(s.text, s.kept) for s in found if s.kind == "filler"] == [("um", True), ("uh", False)]
    assert not any(s.start < um.end for s in found if s.kind == "filler" and not s.kept)
    proposal = tidied(timeline, {"t": again}, {}, "close")
    after = apply(timeline, proposal.edit)
    assert "um" in [w.text for w in words_on(after, {"t": again})]
    reopened = apply(timeline, Tidy(unkeep=timeline.kept))
    assert not any(s.kept for s in find_snags(reopened, {"t": again}, {}))
    assert timeline.kept == (kept(um),)


def test_a_filler_that_was_copied_is_one_by_itself() -> None:
    timeline, words = talk("one (um) two")
    # Half a minute lies between, so that it is no repeat.
    apart = apply(timeline, Place(take="u", take_frames=31 * RATE))
    again = apply(apart, Place(take="t", take_frames=timeline.frames))
    first, second = [s for s in find_snags(again, words, {}) if s.kind == "filler"]
    assert first.id != second.id
    after = apply(again, decided([Decision(second, "cut")]))
    assert [w.text for w in words_on(after, words)] == ["one", "um", "two", "one", "two"]


def test_cuts_covers_and_keeps_are_one_step_and_the_name_says_which() -> None:
    timeline, words = talk("one (um) two (uh) three ~ four")
    fillers = [s for s in find_snags(timeline, words, {}) if s.kind == "filler"]
    air = [s for s in find_snags(timeline, words, {}) if s.kind == "air"]
    assert decided([Decision(s, "cut") for s in fillers]).name == "Cut 2 fillers"
    assert decided([Decision(fillers[0], "keep")]).name == "Kept a filler"
    assert decided([Decision(air[0], "trim")]).name == "Trimmed long air"
    mixed = decided([Decision(fillers[0], "cut"), Decision(air[0], "trim")])
    assert mixed.name == "Settled 2 snags"
    after = apply(timeline, mixed)
    taken = fillers[0].saves + air[0].saves
    assert timeline.frames - after.frames == taken == sum(c.frames for c in mixed.cuts)


@pytest.mark.parametrize("how", ["gentle", "close"])
def test_tidying_the_demo(how: str, words, listened, mistakes) -> None:
    """What was meant to be said is all there, in order; fillers and first attempts are gone; no
    pause is longer than the pass allows, none shorter than it was where nothing was taken out."""
    for take in TAKES[:3]:
        timeline = alone(take, words)
        proposal = tidied(timeline, words, listened, how)
        edit = proposal.edit.model_copy(update={"covers": ()})
        after = apply(timeline, edit)
        assert after.frames == proposal.frames < timeline.frames
        gone = [
            (m["start"] * RATE, m["end"] * RATE)
            for m in mistakes[take]
            if m["kind"] == "repeat" and not (how == "gentle" and m["text"] in FINISHED)
        ]
        meant = [
            plain(w.text)
            for w in words[take]
            if w.kind == "word"
            and not any(a - 2400 <= w.start and w.end <= b + 2400 for a, b in gone)
        ]
        left = words_on(after, words)
        assert [plain(w.text) for w in left if w.kind == "word"] == meant
        least = 0.55 if how == "gentle" else 0.0
        assert not [w for w in left if w.kind == "filler" and w.confidence >= least]
        longest = 1.5 if how == "gentle" else 1.0
        pauses = [b.start - a.end for a, b in pairwise(left)]
        assert max(pauses) <= longest * RATE + 1
        for a, b in pairwise(left):
            if b.word == a.word + 1:
                raw = words[take][b.word].start - words[take][a.word].end
                assert b.start - a.end >= min(raw, 0.4 * RATE) - 1
        again = tidied(after, words, listened, how)
        assert not again.edit.cuts, "a second pass finds nothing left"


@pytest.mark.parametrize("follows", [True, False])
def test_fillers_go_under_music_too(follows: bool) -> None:
    """Music that follows the talk is laid anew, so they are cut; other music would skip, so they
    are covered. What a pass says that it settles, it does."""
    timeline, words = talk("one two (um) three four | (uh) | five six")
    frames = timeline.frames
    bed = Place(take="m", take_frames=frames, track_name="Bed", track_kind="music", at=0)
    timeline = apply(timeline, bed)
    if follows:
        tracks = tuple(replace(t, held=t.kind == "music") for t in timeline.tracks)
        timeline = replace(timeline, tracks=tracks)
    found = tidied(timeline, words, {}, "close")
    assert found.counts == {"filler": 2}
    spans = found.edit.cuts if follows else found.edit.covers
    fillers = [word for word in words["t"] if word.kind == "filler"]
    assert len(spans) == len(fillers)
    for span, filler in zip(spans, fillers, strict=True):
        assert span.start <= filler.start
        assert span.start + span.frames >= filler.end
    assert not (found.edit.covers if follows else found.edit.cuts)


def test_edits_of_many_spans_refuse_what_is_not_there() -> None:
    timeline, _ = talk("one two")
    with pytest.raises(BadInput):
        apply(timeline, Tidy(cuts=(SpanToCut(start=timeline.frames + 5, frames=10),)))


def test_the_key_goes_to_the_air_that_is_listed_and_to_no_other() -> None:
    """Music is no air, though nobody speaks in it: by the list and by the key alike."""
    timeline = apply(Timeline(), Place(take="a", take_frames=60 * RATE, track_name="Host"))
    music = Place(take="m", take_frames=15 * RATE, track_name="M", track_kind="music", at=10 * RATE)
    timeline = apply(timeline, music)
    spoken = [(1, 2), (3, 9), (26, 30), (36, 40), (59, 60)]
    words = {"a": tuple(Word("word", a * RATE, b * RATE, "word", 0.9) for a, b in spoken)}
    limit = round(timeline.snag_rules.air_limit_s * RATE)
    listed = [air.start for air in air_between(timeline, words, 0, timeline.frames, limit)]
    gone_to, at = [], 0
    while (found := next_place(timeline, words, at, "air", back=False, air=limit)) is not None:
        gone_to.append(found)
        at = found
    assert gone_to == listed
    back, at = [], timeline.frames
    while (found := next_place(timeline, words, at, "air", back=True, air=limit)) is not None:
        back.append(found)
        at = found
    assert back[::-1] == listed
