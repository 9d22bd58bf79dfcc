"""Writing down the words of a recording."""

from collections.abc import Callable, Iterable, Iterator, Sequence

from airtrim.core.progress import Progress
from airtrim.core.release.reading import words_of
from airtrim.core.release.transcript import Cue
from airtrim.core.speech.recognise import aligned, as_they_come, recognised
from airtrim.core.speech.script import placed
from airtrim.core.speech.voices import with_voices
from airtrim.core.timeline.words import Word
from airtrim.services.finding import keep_words
from airtrim.services.following import hear_talk
from airtrim.settings import Settings
from airtrim.store.store import Store
from airtrim.store.tables import TakeRow

DOING = "Writing down the words"
_WRITTEN = 0.75
"""How much of the work that is; the rest is to tell voices apart."""


def write_down(
    store: Store,
    settings: Settings,
    take_id: str,
    progress: Progress,
    *,
    cues: Sequence[Cue] = (),
    back: bool = False,
) -> int:
    """Give a recording its words; returns how many. They are those of a transcript made elsewhere
    where it gives ``cues``, those of before where they are to come ``back``, and else recognised.
    """
    take = store.take(take_id)

    def written(fraction: float) -> None:
        progress(_WRITTEN * fraction, DOING)

    def told_apart(fraction: float) -> None:
        progress(_WRITTEN + (1 - _WRITTEN) * fraction, "Telling voices apart")

    found: Iterable[Word]
    if back:
        found = store.words_before(take.id)
    elif cues:
        found = _given_words(store, settings, take, cues, written)
    else:
        found = _recognised_words(store, settings, take, progress)
    words = tuple(found)
    if not back:
        words = with_voices(store.reader(take.id), words, told_apart)
    keep_words(store, take.id, words)
    hear_talk(store, take.episode_id)
    return len(words)


def _recognised_words(
    store: Store, settings: Settings, take: TakeRow, progress: Progress
) -> list[Word]:
    """The words that are heard in a take; where it has none yet, they are shown as they come."""
    words: list[Word] = []
    doing, done = DOING, 0.0

    def heard(fraction: float) -> None:
        nonlocal done
        done = _WRITTEN * fraction
        progress(done, doing)

    try:
        for stretch in as_they_come(
            store.reader(take.id).read,
            take.frames,
            settings.model_folder,
            language=settings.speech_language,
            progress=heard,
        ):
            words += stretch
            if take.words is None and stretch:
                store.keep_coming(take.id, tuple(words))
                doing = f"{DOING}: {len(words):,} so far"
                progress(done, doing)
    except Exception:
        store.drop_coming(take.id)
        raise
    return words


def _given_words(
    store: Store,
    settings: Settings,
    take: TakeRow,
    cues: Sequence[Cue],
    written: Callable[[float], None],
) -> Iterator[Word]:
    """The words of a transcript made elsewhere, in their places in a take. Text without times is
    placed by what the recogniser hears."""
    read = store.reader(take.id).read
    if cues[-1].end:
        words = words_of(cues, take.frames)
    else:
        known = recognised(
            read,
            take.frames,
            settings.model_folder,
            language=settings.speech_language,
            progress=lambda f: written(0.6 * f),
        )
        words = placed(" ".join(cue.text for cue in cues), tuple(known))
    return aligned(
        read,
        take.frames,
        words,
        language=settings.speech_language,
        progress=lambda f: written(0.6 + 0.4 * f),
    )
