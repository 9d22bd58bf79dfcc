"""Writing down the words of a recording."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

from airtrim.compute.order import told
from airtrim.core.progress import Progress
from airtrim.core.release.reading import words_of
from airtrim.core.release.transcript import Cue
from airtrim.core.speech.hearing import ALIGNED
from airtrim.core.speech.recognise import aligned, as_they_come, recognised
from airtrim.core.speech.recognisers import Recogniser
from airtrim.core.speech.script import placed
from airtrim.core.speech.voices import with_voices
from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.words import Word
from airtrim.services.bleeding import without_bleed
from airtrim.services.finding import keep_words
from airtrim.services.following import hear_talk
from airtrim.settings import Settings
from airtrim.store.derived import Coming
from airtrim.store.store import Store
from airtrim.store.tables import TakeRow

DOING = "Writing down the words"
_WRITTEN = 0.75
"""How much of the work that is; the rest is to tell voices apart."""


@dataclass(slots=True)
class Writing:
    """How the words of a take are written down: by which recogniser, in which language (ISO 639-1;
    empty: found by itself). ``found`` is the language once it is known, ``doing`` what a host
    reads, ``done`` how far the words are (0–1)."""

    store: Store
    take: TakeRow
    settings: Settings
    progress: Progress
    recogniser: Recogniser
    language: str
    found: str = field(default="", init=False)
    doing: str = field(default=DOING, init=False)
    done: float = field(default=0.0, init=False)
    whole: int = field(default=MOST_FRAMES, init=False)
    """Up to which frame all words are known."""

    def written(self, fraction: float) -> None:
        """Tell how far the words are."""
        self.done = fraction
        self.progress(_WRITTEN * fraction, told(self.doing, self.store.compute))

    def told_apart(self, fraction: float) -> None:
        """Tell how far the voices are."""
        doing = told("Telling voices apart", self.store.compute)
        self.progress(_WRITTEN + (1 - _WRITTEN) * fraction, doing)

    def whole_to(self, frame: int) -> None:
        """Note up to which frame all words are known."""
        self.whole = frame

    def heard(self, language: str) -> None:
        """Note the language that is spoken."""
        self.found = language


def write_down(
    store: Store,
    settings: Settings,
    take_id: str,
    progress: Progress,
    *,
    cues: Sequence[Cue] = (),
    back: bool = False,
    recogniser: Recogniser | None = None,
    language: str = "",
) -> int:
    """Give a recording its words; returns how many. They are those of a transcript made elsewhere
    where it gives ``cues``, those of before where they are to come ``back``, and else recognised.
    """
    take = store.take(take_id)
    chosen = recogniser or settings.speech_recogniser
    language = language or settings.speech_language
    how = Writing(store, take, settings, progress, chosen, language)
    if back:
        words = tuple(store.words_before(take.id))
    else:
        found = _given_words(how, cues) if cues else _recognised_words(how)
        words = tuple(found)
        if not cues:
            words = without_bleed(store, take.episode_id, take.id, words)
        words = with_voices(store.reader(take.id), words, how.told_apart, store.compute)
    keep_words(store, take.id, words, how.found, "" if back or cues else chosen)
    hear_talk(store, take.episode_id)
    return len(words)


def _recognised_words(how: Writing) -> list[Word]:
    """The words that are heard in a take; where it has none yet, they are shown as they come, those
    that somebody looks at first."""
    store, take = how.store, how.take
    words: list[Word] = []
    try:
        for stretch in as_they_come(
            store.reader(take.id).read,
            take.frames,
            how.settings.model_of(how.recogniser),
            language=how.language,
            progress=how.written,
            told=how.heard,
            wanted=lambda: store.looked_at(take.id),
            whole_to=how.whole_to,
            compute=store.compute,
        ):
            words = sorted([*words, *stretch], key=lambda word: word.start)
            if take.words is None and stretch:
                numbered = sum(word.start < how.whole for word in words)
                store.keep_coming(take.id, Coming(tuple(words), numbered))
                how.doing = f"{DOING}: {len(words):,} so far"
                how.written(how.done)
    except Exception:
        store.drop_coming(take.id)
        raise
    return words


def _given_words(how: Writing, cues: Sequence[Cue]) -> Iterator[Word]:
    """The words of a transcript made elsewhere, in their places in a take. Text without times is
    placed by what the recogniser hears."""
    take, read = how.take, how.store.reader(how.take.id).read
    how.found = how.language or take.language or ALIGNED
    if cues[-1].end:
        words = words_of(cues, take.frames)
    else:
        known = recognised(
            read,
            take.frames,
            how.settings.model_of(how.recogniser),
            language=how.language or take.language,
            progress=_share(how.written, 0.0, 0.6),
            compute=how.store.compute,
        )
        words = placed(" ".join(cue.text for cue in cues), tuple(known))
    return aligned(
        read,
        take.frames,
        words,
        language=how.found,
        progress=_share(how.written, 0.6, 1.0),
        compute=how.store.compute,
    )


def _share(progress: Callable[[float], None], low: float, high: float) -> Callable[[float], None]:
    """Progress of a part of the work, as that of the whole."""
    return lambda fraction: progress(low + (high - low) * fraction)
