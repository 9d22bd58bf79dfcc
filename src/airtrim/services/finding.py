"""What is found in recordings once their words are known, and kept beside them: room tone, sounds
besides the words, and from them the snags of an episode. What cannot be read is found anew."""

from airtrim.core.media.peaks import NoPeaks
from airtrim.core.snags.base import Snag
from airtrim.core.snags.find import find_snags
from airtrim.core.snags.listen import Listened, listen
from airtrim.core.sound.roomtone import RoomTone, find_room_tone
from airtrim.core.timeline.words import Word
from airtrim.store.store import Store

Words = tuple[Word, ...]


def keep_words(
    store: Store, take_id: str, words: Words, language: str = "", recogniser: str = ""
) -> None:
    """Give a take its words, and find what is found by them: now, so that no page has to wait."""
    store.set_words(take_id, words, language, recogniser)
    _find_room_tone(store, take_id, words)
    _listen(store, take_id, words)


def room_tone(store: Store, take_id: str) -> RoomTone | None:
    """The room tone found in a take; None where there is none, or its words are not known."""
    if not store.knows_room_tone(take_id):
        words = store.words_of(take_id)
        if words is not None:
            _find_room_tone(store, take_id, words)
    return store.room_tone(take_id)


def snags(store: Store, episode_id: int, revision: int) -> tuple[Snag, ...]:
    """The snags of an episode's document at a revision, in order of time."""
    found = store.known_snags(episode_id, revision)
    if found is None:
        timeline = store.timeline(episode_id, revision)
        words = store.words(timeline)
        listened = {
            take: store.listened(take) or _listen(store, take, own) for take, own in words.items()
        }
        found = find_snags(timeline, words, listened)
        store.remember_snags(episode_id, revision, found)
    return found


def _find_room_tone(store: Store, take_id: str, words: Words) -> None:
    """Nothing is kept where the sound is missing."""
    peaks = store.peaks(take_id)
    if not isinstance(peaks, NoPeaks):
        frames = store.take(take_id).frames
        store.keep_room_tone(take_id, find_room_tone(peaks, frames, words))


def _listen(store: Store, take_id: str, words: Words) -> Listened:
    """Nothing is kept where the sound is missing."""
    if not (store.files.take(take_id) / "sound").exists():
        return Listened()
    found = listen(store.reader(take_id).read, store.take(take_id).frames, words)
    store.keep_listened(take_id, found)
    return found
