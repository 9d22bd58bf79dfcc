"""Bringing an episode to its target: sections, phrases, and music under the talk."""

from airtrim.core.loudness.levelling import Levels, foresee
from airtrim.core.loudness.meter import Profile
from airtrim.core.loudness.riding import Bed, Riding
from airtrim.core.progress import Progress
from airtrim.core.release.export import level
from airtrim.core.render.graph import section_ramps
from airtrim.core.render.solo import duck, ride_phrases
from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import TakeWords
from airtrim.errors import BadInput, Stale
from airtrim.services.cleaning import clean_missing
from airtrim.services.measuring import energies_of, mix_profile
from airtrim.services.revisions import edit_current, relocated
from airtrim.store.documents import CHANGED_MEANWHILE
from airtrim.store.store import Store


def foreseen(timeline: Timeline, words: TakeWords, profile: Profile) -> Levels:
    """How loud an episode is as it was measured, and will be with the gains of its document."""
    return foresee(
        profile,
        [section.at for section in timeline.sections],
        section_ramps(timeline, words),
        [section.gain_db for section in timeline.sections],
        timeline.loudness.gain_db,
        timeline.loudness.ceiling_dbtp,
    )


def even_out(store: Store, episode_id: int, revision: int) -> int:
    """Bring every section, then the whole, to the target; returns the new revision.

    Raises BadInput where ``revision`` was not measured, Stale where the document has changed since
    and was not measured again.
    """

    def make(current: int) -> Edit:
        timeline = store.timeline(episode_id, current)
        profile = mix_profile(store, timeline)
        if profile is None and current != revision:
            raise Stale(CHANGED_MEANWHILE, current)
        if profile is None:
            raise BadInput(
                "The episode has not been measured as it is now. Measure it first.",
                place="loudness",
            )
        return level(timeline, store.words(timeline), profile, sections=True)

    return edit_current(store, episode_id, revision, make)


def ride_gain(
    store: Store,
    episode_id: int,
    revision: int,
    progress: Progress,
    *,
    riding: Riding | None = None,
    bed: Bed | None = None,
) -> int:
    """Ride the gain of music (``bed``) or of phrases, in one edit; returns the new revision."""
    timeline = store.timeline(episode_id, revision)
    words = store.words(timeline)
    edit: Edit
    clean_missing(store, timeline, progress)
    energies = energies_of(store, timeline, progress)
    if bed is not None:
        edit = duck(timeline, store.reader, words, energies, bed)
    else:
        edit = ride_phrases(timeline, words, energies, riding or Riding())
    return edit_current(
        store,
        episode_id,
        revision,
        lambda current: relocated(store, episode_id, revision, current, edit),
    )
