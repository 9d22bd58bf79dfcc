"""Writing down the words of a recording."""

from collections.abc import Callable, Iterable, Iterator, Sequence

from airtrim.core.progress import Progress
from airtrim.core.release.reading import words_of
from airtrim.core.release.transcript import Cue
from airtrim.core.speech.recognise import aligned, recognised, transcribe
from airtrim.core.speech.script import placed
from airtrim.core.timeline.words import Word
from airtrim.services.finding import keep_words
from airtrim.services.following import hear_talk
from airtrim.settings import Settings
from airtrim.store.store import Store
from airtrim.store.tables import TakeRow


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
        progress(fraction, "Writing down the words")

    found: Iterable[Word]
    if back:
        found = store.words_before(take.id)
    elif cues:
        found = _given_words(store, settings, take, cues, written)
    else:
        found = transcribe(
            store.reader(take.id).read,
            take.frames,
            settings.model_folder,
            language=settings.speech_language,
            progress=written,
        )
    words = tuple(found)
    keep_words(store, take.id, words)
    hear_talk(store, take.episode_id)
    return len(words)


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
