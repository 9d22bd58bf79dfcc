"""How exact words and snags are: readings made by script, with truth to the sample.

Three voices (piper's joe; flite's slt and rms) read three texts each with fillers that stand alone
or are joined to words, and three with false starts, retakes, long air, breaths and knocks. The
truth is exact because each is put there, and so is the edge of every word beside a pause. The same
texts without a mistake tell what is found where nothing is. Half of the readings are for tuning,
the other half for judging; ``docs/speech-quality.md`` shows both.

``make bench-speech``; the readings are made in ``bench/readings.py``.
"""

import contextlib
import tempfile
import threading
import time
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path

import jiwer
import numpy as np
import psutil
from numpy.typing import NDArray
from tests.core.test_render import clicks_at

from airtrim.compute.here import here
from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.release.produce import tidied_up
from airtrim.core.render.graph import render
from airtrim.core.snags.base import Snag
from airtrim.core.snags.find import find_snags
from airtrim.core.snags.listen import listen
from airtrim.core.speech.models import packaged_model
from airtrim.core.speech.recognise import recognised, transcribe
from airtrim.core.speech.spelling import spoken
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.fields import SpanToCut
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.snags import Tidy
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word
from bench.measuring import write_talk
from bench.readings import NOISES, RATE, STUMBLES, TEXTS, VOICES, Reading, reading, stumbling

OUT = Path(__file__).parent.parent / "docs" / "speech-quality.md"


@dataclass
class Score:
    """What was found of some readings."""

    true: int = 0
    hit: int = 0
    false: int = 0
    edges_ms: list[float] = field(default_factory=list)
    words_ms: list[float] = field(default_factory=list)
    bare_ms: list[float] = field(default_factory=list)
    wer: list[float] = field(default_factory=list)
    bare_wer: list[float] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)
    tidied: list["Tidied"] = field(default_factory=list)


def heard(one: Reading, find) -> tuple[list[Word], float]:
    """Words of a reading, and how long it took."""
    sound = one.sound[:, None]
    began = time.perf_counter()
    words = list(find(lambda at, n: sound[at : at + n], len(sound), packaged_model()))
    return words, time.perf_counter() - began


def judged(one: Reading, words: list[Word], bare: list[Word], score: Score) -> None:
    """Add one reading to a score."""
    fillers = [w for w in words if w.kind == "filler"]
    used: set[int] = set()
    for start, end, joined in one.fillers:
        near = [
            (min(end, w.end / RATE) - max(start, w.start / RATE), i)
            for i, w in enumerate(fillers)
            if i not in used
        ]
        best = max(near, default=(0.0, -1))
        score.true += 1
        if best[0] <= 0:
            kind = "joined" if joined else "alone"
            score.missed.append(f"{one.name} at {start:.1f} s ({kind})")
            continue
        used.add(best[1])
        score.hit += 1
        found = fillers[best[1]]
        score.edges_ms += [
            abs(found.start / RATE - start) * 1000,
            abs(found.end / RATE - end) * 1000,
        ]
    for i, word in enumerate(fillers):
        if i not in used:
            score.false += 1
            score.missed.append(f"{one.name}: false {word.text} at {word.start / RATE:.1f} s")
    for found, into in ((words, score.words_ms), (bare, score.bare_ms)):
        plain = [w for w in found if w.kind == "word"]
        for edges, pick in ((one.starts, "start"), (one.ends, "end")):
            for edge in edges:
                into.append(min(abs(getattr(w, pick) / RATE - edge) for w in plain) * 1000)
    for found, into in ((words, score.wer), (bare, score.bare_wer)):
        text = " ".join(" ".join(spoken(w.text)) for w in found if w.kind == "word")
        into.append(jiwer.wer(one.text, text))


def evaluate(halves: tuple[int, ...] = (0, 1)) -> dict[tuple[int, str], Score]:
    """Scores by half and noise."""
    scores: dict[tuple[int, str], Score] = {}
    spent = {"ours": 0.0, "bare": 0.0}
    for noise in NOISES:
        for voice in VOICES:
            for number in range(len(TEXTS)):
                one = reading(voice, number, noise)
                if one.half not in halves:
                    continue
                bare, took = heard(one, recognised)
                spent["bare"] += took
                words, took = heard(one, transcribe)
                spent["ours"] += took
                judged(one, words, bare, scores.setdefault((one.half, noise), Score()))
                if noise != "20 dB":
                    after = tidied(one, words)
                    scores[one.half, noise].tidied.append(after)
    print(f"time: {spent['ours'] / spent['bare']:.2f} of the bare recogniser's")
    return scores


@dataclass
class Snagged:
    """What was found of the mistakes of some readings, by kind: how many there are, how many of
    them were found, how many were found that are none; edges of air; what is found in the same
    texts without a mistake, and how long those are."""

    true: dict[str, int] = field(default_factory=dict)
    hit: dict[str, int] = field(default_factory=dict)
    false: dict[str, int] = field(default_factory=dict)
    air_ms: list[float] = field(default_factory=list)
    clean: list[str] = field(default_factory=list)
    clean_minutes: float = 0.0
    missed: list[str] = field(default_factory=list)
    tidied: list["Tidied"] = field(default_factory=list)


def snags_of(one: Reading, words: list[Word]) -> tuple[Timeline, tuple[Snag, ...]]:
    """The snags of a reading, on a document that holds nothing else."""
    sound = one.sound[:, None]
    listened = listen(lambda at, n: sound[at : at + n], len(sound), words)
    timeline = apply(Timeline(), Place(take="t", take_frames=len(sound)))
    return timeline, find_snags(timeline, {"t": tuple(words)}, {"t": listened})


def mistakes(halves: tuple[int, ...] = (0, 1)) -> dict[int, Snagged]:
    """False starts, retakes, air, breaths and knocks, at 30 dB, by half."""
    out: dict[int, Snagged] = {}
    for voice in VOICES:
        for number in range(len(STUMBLES)):
            one = stumbling(voice, number, "30 dB")
            if one.half not in halves:
                continue
            score = out.setdefault(one.half, Snagged())
            words, _ = heard(one, transcribe)
            _, found = snags_of(one, words)
            left = [s for s in found if s.kind in ("repeat", "air", "breath", "noise")]
            for kind, start, end in one.mistakes:
                score.true[kind] = score.true.get(kind, 0) + 1
                low, high = start * RATE, end * RATE
                # A repeat is the right one where most of the attempt is what would be cut.
                hits = [
                    s
                    for s in left
                    if s.kind == kind
                    and min(s.end, high) - max(s.start, low)
                    > 0.5 * min(high - low, s.end - s.start)
                ]
                if not hits:
                    score.missed.append(f"{one.name}: {kind} at {start:.1f} s")
                    continue
                score.hit[kind] = score.hit.get(kind, 0) + 1
                left.remove(hits[0])
                if kind == "air":
                    off_ms = [
                        abs(hits[0].start - low) / RATE * 1000,
                        abs(hits[0].end - high) / RATE * 1000,
                    ]
                    score.air_ms += off_ms
                    score.missed += [
                        f"{one.name}: an edge of air {ms:.0f} ms off at {at:.1f} s"
                        for ms, at in zip(off_ms, (start, end), strict=True)
                        if ms > 30
                    ]
            for snag in left:
                at = snag.start / RATE
                if snag.kind == "air" and (at < 0.6 or snag.end >= len(one.sound) - RATE):
                    continue
                score.false[snag.kind] = score.false.get(snag.kind, 0) + 1
                score.missed.append(f"{one.name}: false {snag.kind} “{snag.text}” at {at:.1f} s")
            score.tidied.append(tidied(one, words))
            clean = stumbling(voice, number, "30 dB", clean=True)
            words, _ = heard(clean, transcribe)
            score.clean_minutes += len(clean.sound) / RATE / 60
            score.clean += [
                f"{clean.name}: {s.kind} “{s.text}” at {s.start / RATE:.1f} s"
                for s in snags_of(clean, words)[1]
            ]
    return out


@dataclass
class Tidied:
    """A reading after "tidy closely": fillers and repeats planted; those of which more than 80 ms
    are still to be heard; words of which more than 50 ms are gone. Recognised and aligned again:
    how many fillers and repeats are found where one was planted, and elsewhere; words wrong before
    and after, and where the mistakes are cut out by the truth instead. And how far the worst splice
    stands out of the sound around it (dB above 5 kHz; the click test of
    tests/core/test_render.py)."""

    planted: int
    left: int
    damaged: int
    again: int
    none: int
    wrong_before: float
    wrong_after: float
    wrong_by_truth: float
    splice_db: float


def tidied(one: Reading, words: list[Word]) -> Tidied:
    """Tidy a reading as the application does, and listen to what came out."""
    timeline, _ = snags_of(one, words)
    take = one.sound[:, None]

    class Reader:
        """The reading as a take."""

        frames = len(take)

        def read(self, start: int, frames: int) -> NDArray[np.float32]:
            return take[start : start + frames]

    readers = {"t": Reader()}
    done, _ = tidied_up(timeline, "close", {"t": tuple(words)}, readers, {})
    out = np.concatenate(list(render(done, readers.__getitem__, {"t": tuple(words)})))
    repeats = [(low, high) for kind, low, high in one.mistakes if kind == "repeat"]
    there = [(low, high) for low, high, _ in one.fillers] + repeats
    clips = done.tracks[0].clips
    again, found = _heard_again(one, out)

    def from_planted(snag: Snag) -> bool:
        """Whether some of its sound is from where a mistake was planted."""
        return any(
            max(clip.at, snag.start) - clip.at + clip.start < high * RATE
            and min(clip.end, snag.end) - clip.at + clip.start > low * RATE
            for clip in clips.between(snag.start, snag.end)
            for low, high in there
        )

    def wrong(found: list[Word]) -> float:
        text = " ".join(" ".join(spoken(w.text)) for w in found if w.kind == "word")
        return jiwer.wer(one.text, text)

    splices = [
        clicks_at(out, b.at, take, a.start + a.frames, b.start)
        for a, b in pairwise(clips)
        if a.end == b.at and b.at > 0
    ]
    gone = [_span(low, high) for low, high in there]
    exact = apply(timeline, Tidy(cuts=tuple(gone), name="By the truth"))
    by_truth = np.concatenate(list(render(exact, readers.__getitem__, {"t": tuple(words)})))
    left, damaged = _by_sound(one, [(c.start, c.start + c.frames) for c in clips], there)
    planted_again = sum(map(from_planted, found))
    return Tidied(
        planted=len(there),
        left=left,
        damaged=damaged,
        again=planted_again,
        none=len(found) - planted_again,
        wrong_before=wrong(words),
        wrong_after=wrong(again),
        wrong_by_truth=wrong(_heard_again(one, by_truth)[0]),
        splice_db=max(splices, default=-99.0),
    )


def _span(start_s: float, end_s: float) -> SpanToCut:
    start = round(start_s * RATE)
    return SpanToCut(start=start, frames=round(end_s * RATE) - start)


def _heard_again(one: Reading, sound: NDArray[np.float32]) -> tuple[list[Word], list[Snag]]:
    """The words of a reading after an edit, and its fillers and repeats."""
    after = Reading(one.name, one.half, sound[:, 0].astype(np.float32), text=one.text)
    words, _ = heard(after, transcribe)
    return words, [s for s in snags_of(after, words)[1] if s.kind in ("filler", "repeat")]


def _by_sound(
    one: Reading, kept: list[tuple[int, int]], there: list[tuple[float, float]]
) -> tuple[int, int]:
    """How many of the mistakes are still to be heard where spans of a reading are kept, and how
    many words have lost something: sound within 20 dB of the speech, in steps of 10 ms."""
    hop = RATE // 100
    count = len(one.sound) // hop
    power = np.square(one.sound[: count * hop], dtype=np.float64).reshape(count, hop).mean(axis=1)
    loud = power > 0.01**2
    stays, planted = np.zeros(count, np.bool_), np.zeros(count, np.bool_)
    for low, high in kept:
        stays[-(-low // hop) : high // hop] = True
    for low_s, high_s in [*there, *((low, high) for _, low, high in one.mistakes)]:
        planted[int(low_s * 100) : int(high_s * 100) + 1] = True
    left = sum((loud & stays)[int(a * 100) : int(b * 100) + 1].sum() > 8 for a, b in there)
    return int(left), sum(end - start > 5 for start, end in runs(loud & ~stays & ~planted))


def memory_of(hours: float = 3.0) -> tuple[float, float]:
    """The highest memory in MB, of its own of this process and its aligners together, while the
    words of so many hours of talk are written down, and how many hours a minute that took."""
    peak = 0.0
    done = threading.Event()

    def watch() -> None:
        nonlocal peak
        own = psutil.Process()
        while not done.wait(0.5):
            with contextlib.suppress(psutil.NoSuchProcess):
                all_of_it = [own, *own.children(recursive=True)]
                peak = max(peak, sum(p.memory_full_info().uss for p in all_of_it) / 1e6)

    watcher = threading.Thread(target=watch, daemon=True)
    watcher.start()
    began = time.perf_counter()
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        wav = write_talk(place / "talk.wav", hours * 3600)
        store_take(wav, place / "sound", place / "peaks", name="talk")
        reader = TakeReader(place / "sound")
        words = sum(
            1 for _ in transcribe(reader.read, reader.frames, packaged_model(), compute=here())
        )
    done.set()
    watcher.join()
    print(f"{words} words")
    return peak, hours / ((time.perf_counter() - began) / 60)


def told(scores: dict[tuple[int, str], Score]) -> str:
    """The table, and the weakest cases."""
    lines = [
        "| half | noise | fillers found | right of those found | edges, median / 90th | "
        "words at pauses, median | bare recogniser's | words wrong | bare |",
        "|---|---|---|---|---|---|---|---|---|",
    ]
    for (half, noise), s in sorted(scores.items()):
        found = s.hit + s.false
        edges = f"{np.median(s.edges_ms):.0f} / {np.percentile(s.edges_ms, 90):.0f} ms"
        lines.append(
            f"| {'judging' if half else 'tuning'} | {noise} | {s.hit} of {s.true} "
            f"({s.hit / s.true:.2f}) | {s.hit} of {found} ({s.hit / max(1, found):.2f}) | "
            f"{edges} | "
            f"{np.median(s.words_ms):.0f} ms | {np.median(s.bare_ms):.0f} ms | "
            f"{np.mean(s.wer):.3f} | {np.mean(s.bare_wer):.3f} |"
        )
    return "\n".join(lines)


def told_mistakes(scores: dict[int, Snagged]) -> str:
    """The table of mistakes."""
    lines = [
        "| half | | there | found | right of those found |",
        "|---|---|---|---|---|",
    ]
    for half, s in sorted(scores.items()):
        for kind, there in s.true.items():
            hit = s.hit.get(kind, 0)
            found = hit + s.false.get(kind, 0)
            lines.append(
                f"| {'judging' if half else 'tuning'} | {kind} | {there} | {hit} "
                f"({hit / there:.2f}) | {hit} of {found} ({hit / max(1, found):.2f}) |"
            )
    for half, s in sorted(scores.items()):
        name = "judging" if half else "tuning"
        lines.append(
            f"\n{name}: edges of air, median {np.median(s.air_ms):.0f} ms, highest "
            f"{max(s.air_ms):.0f} ms; without a mistake {len(s.clean)} snags in "
            f"{s.clean_minutes:.1f} minutes"
        )
    return "\n".join(lines)


def told_tidied(name: str, tidied: list[Tidied]) -> str:
    """What is left after tidying."""
    before, after, by_truth = (
        np.mean([getattr(t, f"wrong_{when}") for t in tidied])
        for when in ("before", "after", "by_truth")
    )
    planted, left, damaged, again, none = (
        sum(getattr(t, count) for t in tidied)
        for count in ("planted", "left", "damaged", "again", "none")
    )
    return (
        f"tidied closely, {name}: {left} of {planted} left, {damaged} words damaged; found again "
        f"{again}, elsewhere {none}; words wrong {before:.3f} before, {after:.3f} after, "
        f"{by_truth:.3f} cut by the truth; worst splice {max(t.splice_db for t in tidied):.1f} dB"
    )


if __name__ == "__main__":
    import sys

    if "memory" in sys.argv:
        peak, pace = memory_of()
        print(f"memory for three hours: {peak:.0f} MB at most; {pace:.2f} hours a minute")
        sys.exit()
    chosen = (0,) if "tuning" in sys.argv else (0, 1)
    if "fillers" in sys.argv or "mistakes" not in sys.argv:
        found = evaluate(chosen)
        print(told(found))
        for (half, noise), score in found.items():
            if score.tidied:
                print(told_tidied(f"{'judging' if half else 'tuning'} {noise}", score.tidied))
            for case in score.missed:
                print(" ", case)
    if "mistakes" in sys.argv or "fillers" not in sys.argv:
        snagged = mistakes(chosen)
        print(told_mistakes(snagged))
        for half, one in snagged.items():
            print(told_tidied("judging" if half else "tuning", one.tidied))
            for case in [*one.missed, *one.clean]:
                print(" ", case)
