"""Who speaks: names for words of a take, where they are not those of its track."""

from bisect import bisect_right
from collections.abc import Sequence

Voices = tuple[tuple[int, str], ...]
"""Who speaks in a take: from which word on, by its number, and the name; in order. An empty name,
as before the first of them, is that of the track."""


def speaker_of(voices: Voices, word: int) -> str:
    """The name for a word of a take; empty where it is that of the track."""
    index = bisect_right(voices, word, key=lambda one: one[0])
    return voices[index - 1][1] if index else ""


def with_speaker(voices: Voices, first: int, last: int, name: str) -> Voices:
    """The same with the words from ``first`` to ``last``, both included, said by ``name``."""
    after = (last + 1, speaker_of(voices, last + 1))
    kept = [one for one in voices if not first <= one[0] <= last + 1]
    return _plain([*kept, (first, name), after])


def renamed(voices: Voices, old: str, new: str) -> Voices:
    """The same with one name instead of another."""
    return _plain([(word, new if name == old else name) for word, name in voices])


def overlaid(heard: Voices, named: Voices) -> Voices:
    """Names that were given, and where none was, those of the voices that were heard.

    >>> overlaid(((0, "Voice 1"), (4, "Voice 2")), ((4, "Ilva"), (6, "")))
    ((0, 'Voice 1'), (4, 'Ilva'), (6, 'Voice 2'))
    """
    changes = {word for word, _ in (*heard, *named)}
    return _plain([(word, speaker_of(named, word) or speaker_of(heard, word)) for word in changes])


def voice_name(voice: str) -> str:
    """What a voice is called that nobody has named."""
    return f"Voice {voice}" if voice else ""


def as_heard(voices: Sequence[str]) -> Voices:
    """Who speaks in a take by the voice of each of its words."""
    return _plain([(number, voice_name(voice)) for number, voice in enumerate(voices)])


def _plain(voices: list[tuple[int, str]]) -> Voices:
    """In order, and no name told again where it goes on."""
    out: list[tuple[int, str]] = []
    for word, name in sorted(voices):
        if name != (out[-1][1] if out else ""):
            out.append((word, name))
    return tuple(out)
