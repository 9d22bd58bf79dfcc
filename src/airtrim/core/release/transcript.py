"""Transcripts in open formats: WebVTT, SRT, plain text, and the podcast namespace's JSON.

Cues hold up to two lines of 42 characters and seven seconds (common practice for captions), and
end where a sentence or a voice does.
"""

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta
from io import StringIO
from itertools import pairwise
from typing import Literal

import srt  # type: ignore[import-untyped]
import webvtt

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.finding import ends_sentence
from airtrim.core.timeline.words import PlacedWord, Word
from airtrim.errors import BadInput

TranscriptFormat = Literal["vtt", "srt", "txt", "json"]

_LONGEST_CUE_CHARACTERS = 84
_LONGEST_CUE_FRAMES = 7 * FRAME_RATE
_LINE_CHARACTERS = 42
_MOST_CUES = 200_000
_SPEAKER = re.compile(r"^\s*(?:<v[ .][^>]*>|[-–]\s)")
_NAMED = re.compile(r"^\s*\[?([A-Z][\w’'. -]{0,40}?)\]?:\s+")
_TAG = re.compile(r"<[^>]*>|\{\\[^}]*\}")


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
    if form == "srt":
        return str(
            srt.compose(
                srt.Subtitle(i, _delta(c.start), _delta(c.end), _wrapped(_told(c, several)))
                for i, c in enumerate(cues, 1)
            )
        )
    out = ["WEBVTT", ""]
    for cue in cues:
        voice = f"<v {cue.speaker}>" if several and cue.speaker else ""
        body = _wrapped(cue.text.replace("&", "&amp;").replace("<", "&lt;"))
        out += [f"{_clock(cue.start)} --> {_clock(cue.end)}", f"{voice}{body}", ""]
    return "\n".join(out)


def _told(cue: Cue, several: bool) -> str:
    return f"{cue.speaker}: {cue.text}" if several and cue.speaker else cue.text


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
            paragraphs.append(f"{cue.speaker}: {cue.text}")
        else:
            paragraphs.append(cue.text)
    return "\n\n".join(paragraphs) + ("\n" if paragraphs else "")


def _delta(frames: int) -> timedelta:
    return timedelta(milliseconds=round(frames * 1000 / FRAME_RATE))


def _clock(frames: int) -> str:
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


def read_transcript(data: bytes, name: str) -> list[Cue]:
    """A transcript made elsewhere, by its name's ending; plain text is one cue of no length.

    Raises BadInput with a sentence where it cannot be read or its times are broken.
    """
    try:
        text = data.decode("utf-8-sig").replace("\r\n", "\n").replace("\r", "\n")
    except UnicodeDecodeError as error:
        raise BadInput(f"“{name}” is not text in UTF-8. Save it so, and try again.") from error
    form = name.rsplit(".", 1)[-1].lower()
    if form == "json":
        cues = _from_json(text, name)
    elif form == "srt":
        cues = _from_srt(text, name)
    elif form == "vtt":
        cues = _from_vtt(text, name)
    elif form == "txt":
        cues = [Cue(0, 0, text.strip())]
    else:
        raise BadInput(f"“{name}”: transcripts are read from .vtt, .srt, .json and .txt files.")
    cues = [cue for cue in cues if cue.text]
    if not cues:
        raise BadInput(f"No words were found in “{name}”.")
    if form != "txt":
        _check_times(cues, name)
    return cues


def _check_times(cues: Sequence[Cue], name: str) -> None:
    if len(cues) > _MOST_CUES:
        raise BadInput(f"“{name}” has more lines than any recording here can hold.")
    for number, cue in enumerate(cues, 1):
        if cue.end <= cue.start:
            raise BadInput(
                f"The times in “{name}” are broken: line {number} ends before it begins, at "
                f"{_clock(cue.start)}."
            )
    if any(b.start + FRAME_RATE < a.start for a, b in pairwise(cues)):
        raise BadInput(f"The times in “{name}” are broken: its lines are not in order of time.")


def _clean(text: str) -> tuple[str, str]:
    """Text and speaker of a line."""
    plain = " ".join(_TAG.sub("", _SPEAKER.sub("", text)).split())
    named = _NAMED.match(plain)
    if named:
        return plain[named.end() :], named.group(1)
    return plain, ""


def _from_json(text: str, name: str) -> list[Cue]:
    try:
        segments = json.loads(text)["segments"]
        out = []
        for one in segments:
            start, end = float(one["startTime"]), float(one["endTime"])
            body = " ".join(str(one["body"]).split())
            speaker = str(one.get("speaker", ""))
            out.append(Cue(round(start * FRAME_RATE), round(end * FRAME_RATE), body, speaker))
    except (ValueError, KeyError, TypeError, AttributeError, OverflowError) as error:
        raise BadInput(
            f"“{name}” is no transcript in the podcast namespace’s JSON: it needs segments with "
            "startTime, endTime and body."
        ) from error
    return out


def _from_srt(text: str, name: str) -> list[Cue]:
    try:
        parsed = list(srt.parse(text))
    except (srt.SRTParseError, ValueError) as error:
        raise BadInput(f"“{name}” is no SRT file, or its times are broken.") from error
    out = []
    for one in parsed:
        body, speaker = _clean(one.content)
        start, end = one.start.total_seconds(), one.end.total_seconds()
        out.append(Cue(round(start * FRAME_RATE), round(end * FRAME_RATE), body, speaker))
    return out


def _from_vtt(text: str, name: str) -> list[Cue]:
    try:
        parsed = webvtt.from_buffer(StringIO(text)).captions
    except (webvtt.errors.MalformedFileError, webvtt.errors.MalformedCaptionError) as error:
        raise BadInput(f"“{name}” is no WebVTT file, or its times are broken.") from error
    out = []
    for one in parsed:
        body, speaker = _clean(one.raw_text)
        start, end = _vtt_seconds(one.start), _vtt_seconds(one.end)
        who = speaker or (one.voice or "")
        out.append(Cue(round(start * FRAME_RATE), round(end * FRAME_RATE), body, who))
    return out


def _vtt_seconds(clock: str) -> float:
    return sum(float(part) * 60.0**i for i, part in enumerate(reversed(clock.split(":"))))


def words_of(cues: Sequence[Cue], frames: int) -> list[Word]:
    """The words of cues, each where it would be if all characters of a cue took equally long; the
    aligner puts them in their places. Words beyond the recording's end are left out.

    Raises BadInput where nothing of it lies in the recording.
    """
    out: list[Word] = []
    for cue in cues:
        texts = cue.text.split()
        total = sum(len(text) + 1 for text in texts)
        at = 0
        for text in texts:
            low = cue.start + (cue.end - cue.start) * at // total
            at += len(text) + 1
            high = cue.start + (cue.end - cue.start) * at // total
            start = max(low, out[-1].end if out else 0)
            if start >= frames:
                break
            out.append(Word(text, start, min(max(high, start + 480), frames), "word", 1.0))
    if not out:
        raise BadInput("All of that transcript lies beyond the end of the recording.")
    return out
