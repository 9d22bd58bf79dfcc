"""Transcripts written in open formats: WebVTT, SRT, plain text, and the podcast namespace's JSON.

Cues hold up to two lines of 42 characters and seven seconds (common practice for captions), and
end where a sentence or a voice does.
"""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.finding import ends_sentence
from airtrim.core.timeline.words import PlacedWord

TranscriptFormat = Literal["vtt", "srt", "txt", "json"]

_LONGEST_CUE_CHARACTERS = 84
_LONGEST_CUE_FRAMES = 7 * FRAME_RATE
_LINE_CHARACTERS = 42


@dataclass(frozen=True, slots=True)
class Cue:
    """Words of one speaker, from ``start`` to ``end`` in frames."""

    start: int
    end: int
    text: str
    speaker: str = ""


def cues_of(words: Sequence[PlacedWord], names: Mapping[str, str]) -> list[Cue]:
    """Words in order of time as cues; ``names``: of those whom the tracks are named after, by
    track. Fillers are left out, as transcripts do (common practice)."""
    out: list[Cue] = []
    for track in dict.fromkeys(word.track for word in words):
        own = [w for w in words if w.track == track and w.kind == "word"]
        part: list[PlacedWord] = []
        for index, word in enumerate(own):
            part.append(word)
            text = " ".join(w.text for w in part)
            following = own[index + 1] if index + 1 < len(own) else None
            full = following is not None and (
                following.speaker != word.speaker
                or len(text) + 1 + len(following.text) > _LONGEST_CUE_CHARACTERS
                or following.end - part[0].start > _LONGEST_CUE_FRAMES
            )
            if full or ends_sentence(word, following):
                speaker = word.speaker or names.get(track, "")
                out.append(Cue(part[0].start, word.end, text, speaker))
                part = []
    return sorted(out, key=lambda cue: (cue.start, cue.end))


def written(cues: Sequence[Cue], form: TranscriptFormat) -> str:
    """A transcript as a file. Speakers are named where there are several, where they change in
    plain text, and always in JSON (the podcast namespace's format, version 1.0.0)."""
    several = len({cue.speaker for cue in cues}) > 1
    if form == "json":
        return _json(cues)
    if form == "txt":
        return _plain_text(cues, several)
    out = [] if form == "srt" else ["WEBVTT", ""]
    for number, cue in enumerate(cues, 1):
        start, end = clock(cue.start), clock(cue.end)
        if form == "srt":
            # SRT has no way to write an arrow that is no timing.
            line = _wrapped(_cue_text(cue, several)).replace("-->", "→")
            out += [str(number), f"{start} --> {end}".replace(".", ","), line, ""]
        else:
            voice = f"<v {escaped(in_one_line(cue.speaker))}>" if several and cue.speaker else ""
            out += [f"{start} --> {end}", f"{voice}{escaped(_wrapped(in_one_line(cue.text)))}", ""]
    return "\n".join(out)


def escaped(text: str) -> str:
    """Text as WebVTT writes it (W3C WebVTT, section 4.2.2): an arrow cannot end it either."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def in_one_line(text: str) -> str:
    """Text in one line, so that nothing in it can begin another cue."""
    return " ".join(text.split())


def _cue_text(cue: Cue, several: bool) -> str:
    line = f"{cue.speaker}: {cue.text}" if several and cue.speaker else cue.text
    return in_one_line(line)


def _json(cues: Sequence[Cue]) -> str:
    segments = [
        {
            **({"speaker": cue.speaker} if cue.speaker else {}),
            "startTime": round(cue.start / FRAME_RATE, 3),
            "endTime": round(cue.end / FRAME_RATE, 3),
            "body": cue.text,
        }
        for cue in cues
    ]
    return json.dumps({"version": "1.0.0", "segments": segments}, ensure_ascii=False, indent=1)


def _plain_text(cues: Sequence[Cue], several: bool) -> str:
    paragraphs: list[str] = []
    for before, cue in pairwise([None, *cues]):
        assert cue is not None
        goes_on = before and before.speaker == cue.speaker
        if goes_on and cue.start - before.end <= 2 * FRAME_RATE:  # type: ignore[union-attr]
            paragraphs[-1] += f" {cue.text}"
        elif several and not goes_on and cue.speaker:
            paragraphs.append(_cue_text(cue, several))
        else:
            paragraphs.append(cue.text)
    return "\n\n".join(paragraphs) + ("\n" if paragraphs else "")


def clock(frames: int) -> str:
    """A time as WebVTT writes it: hours, minutes, seconds, milliseconds."""
    ms = round(frames * 1000 / FRAME_RATE)
    return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d}.{ms % 1000:03d}"


def _wrapped(text: str) -> str:
    """In two lines as even as can be where one is too long."""
    if len(text) <= _LINE_CHARACTERS:
        return text
    spaces = [i for i, c in enumerate(text) if c == " "]
    if not spaces:
        return text
    at = min(spaces, key=lambda i: abs(i - len(text) / 2))
    return f"{text[:at]}\n{text[at + 1 :]}"
