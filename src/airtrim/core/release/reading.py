"""Transcripts made elsewhere: WebVTT, SRT, plain text, and the podcast namespace's JSON.

Files are read line by line, in time that grows with their length whatever stands in them.
"""

import html
import json
import re
from collections.abc import Iterator, Sequence
from itertools import pairwise

from airtrim.core.media import FRAME_RATE
from airtrim.core.release.transcript import Cue
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput

MOST_CUES = 200_000
MOST_WORDS = 400_000
"""Twelve hours of quick talk are half of that."""
_MOST_S = 24 * 3600.0
_LONGEST_WORD = 200
_LONGEST_NAME = 80

# None of these can look at a character twice: what they repeat ends at what they begin with.
_VOICE = re.compile(r"<v(?:\.[^\s<>]*)?\s+([^<>]*)>")
_TAG = re.compile(r"<[^<>]*>|\{\\[^{}]*\}")
_DASH = re.compile(r"\s*[-–]\s")
_NAMED = re.compile(r"\s*\[?([A-Z][\w’'. -]{0,40}?)\]?:\s+")


def read_transcript(data: bytes, name: str) -> list[Cue]:
    """A transcript made elsewhere, by its name's ending; plain text is one cue of no length.

    Raises BadInput with a sentence where it cannot be read, its times are broken, or it holds more
    than any recording can.
    """
    try:
        text = data.decode("utf-8-sig").replace("\r\n", "\n").replace("\r", "\n")
    except UnicodeDecodeError as error:
        raise BadInput(f"“{name}” is not text in UTF-8. Save it so, and try again.") from error
    form = name.rsplit(".", 1)[-1].lower()
    if form == "json":
        found = _from_json(text, name)
    elif form == "srt":
        found = _from_srt(text, name)
    elif form == "vtt":
        found = _from_vtt(text, name)
    elif form == "txt":
        found = iter([Cue(0, 0, _plain(text))])
    else:
        raise BadInput(f"“{name}”: transcripts are read from .vtt, .srt, .json and .txt files.")
    cues: list[Cue] = []
    words = 0
    for cue in found:
        if cue.text:
            cues.append(cue)
            words += cue.text.count(" ") + 1
        if len(cues) > MOST_CUES or words > MOST_WORDS:
            raise BadInput(f"“{name}” has more words than any recording here can hold.")
    if not cues:
        raise BadInput(f"No words were found in “{name}”.")
    if form != "txt":
        _check_times(cues, name)
    return cues


def _check_times(cues: Sequence[Cue], name: str) -> None:
    for number, cue in enumerate(cues, 1):
        if cue.end <= cue.start:
            raise BadInput(
                f"The times in “{name}” are broken: line {number} ends before it begins, at "
                f"{cue.start / FRAME_RATE:.1f} s."
            )
    if any(b.start + FRAME_RATE < a.start for a, b in pairwise(cues)):
        raise BadInput(f"The times in “{name}” are broken: its lines are not in order of time.")


def _plain(text: str) -> str:
    """Text in one line, of what can be stored and shown; a word has no end of letters."""
    shown = text.encode("utf-8", "replace").decode()
    return " ".join(
        "".join(c for c in word[:_LONGEST_WORD] if c.isprintable()) for word in shown.split()
    )


def _cue(start: float, end: float, text: str) -> Cue:
    """A cue of marked-up text: tags go, and who speaks is told by them, or by a name before it."""
    voice = _VOICE.search(text)
    speaker = _plain(html.unescape(voice[1])) if voice else ""
    words = _plain(html.unescape(_TAG.sub("", text)))
    words = _DASH.sub("", words, count=1) if _DASH.match(words) else words
    named = None if speaker else _NAMED.match(words)
    if named:
        speaker, words = named[1], words[named.end() :]
    return Cue(round(start * FRAME_RATE), round(end * FRAME_RATE), words, speaker[:_LONGEST_NAME])


def _from_json(text: str, name: str) -> Iterator[Cue]:
    try:
        for one in json.loads(text)["segments"]:
            start, end = float(one["startTime"]), float(one["endTime"])
            if not (0 <= start <= _MOST_S and 0 <= end <= _MOST_S):
                raise ValueError("no time of a recording")
            body, speaker = _plain(str(one["body"])), _plain(str(one.get("speaker", "")))
            first, last = round(start * FRAME_RATE), round(end * FRAME_RATE)
            yield Cue(first, last, body, speaker[:_LONGEST_NAME])
    except (
        ValueError,
        KeyError,
        TypeError,
        AttributeError,
        OverflowError,
        RecursionError,
    ) as error:
        raise BadInput(
            f"“{name}” is no transcript in the podcast namespace’s JSON: it needs segments with "
            "startTime, endTime and body."
        ) from error


def _from_srt(text: str, name: str) -> Iterator[Cue]:
    """A timing begins a cue, which lasts to the next; the number before that is not its text."""
    wrong = BadInput(f"“{name}” is no SRT file, or its times are broken.")
    times: tuple[float, float] | None = None
    lines: list[str] = []
    for line in text.split("\n"):
        if "-->" not in line:
            lines.append(line)
            continue
        found = _timing(line)
        if found is None:
            raise wrong
        while lines and not lines[-1].strip():
            lines.pop()
        if lines and lines[-1].strip().isdigit():
            lines.pop()
        if times is not None:
            yield _cue(*times, "\n".join(lines))
        elif any(line.strip() for line in lines):
            raise wrong
        times, lines = found, []
    if times is None:
        raise wrong
    yield _cue(*times, "\n".join(lines))


def _from_vtt(text: str, name: str) -> Iterator[Cue]:
    """Blocks between empty lines; those without a timing (notes, styles) are passed over."""
    wrong = BadInput(f"“{name}” is no WebVTT file, or its times are broken.")
    lines = text.split("\n")
    if not re.match(r"WEBVTT(?:[ \t]|$)", lines[0]):
        raise wrong
    times: tuple[float, float] | None = None
    body: list[str] = []
    skipping = False
    for line in [*lines[1:], ""]:
        if not line.strip():
            if times is not None:
                yield _cue(*times, "\n".join(body))
            times, body, skipping = None, [], False
        elif times is not None:
            body.append(line)
        elif line.startswith(("NOTE", "STYLE", "REGION")):
            skipping = "-->" not in line
        elif "-->" in line and not skipping:
            times = _timing(line)
            if times is None:
                raise wrong


def _timing(line: str) -> tuple[float, float] | None:
    """The two times of a line, in seconds; what follows them, settings of the cue, is passed over.
    None where they are no times."""
    first, _, rest = line.partition("-->")
    last = rest.split(maxsplit=1)
    start, end = _seconds(first.strip()), _seconds(last[0] if last else "")
    return None if start is None or end is None else (start, end)


def _seconds(clock: str) -> float | None:
    """Hours, minutes and seconds, the hours perhaps left out, with a point or a comma."""
    parts = clock.replace(",", ".").split(":")
    whole, _, thousandths = parts[-1].partition(".")
    figures = [*parts[:-1], whole, thousandths or "0"]
    if len(parts) not in (2, 3) or len(clock) > 20:
        return None
    if not all(part.isascii() and part.isdigit() for part in figures):
        return None
    seconds = sum(int(part) * 60.0**i for i, part in enumerate(reversed(figures[:-1])))
    seconds += float(f"0.{figures[-1]}")
    return seconds if seconds <= _MOST_S else None


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
