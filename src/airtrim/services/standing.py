"""How far episodes are, as the store knows it."""

from collections.abc import Iterable

from airtrim.core.release.standing import Known, Step, in_a_word, steps
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.tone import voice_takes
from airtrim.services.checking import behind
from airtrim.services.finding import snags
from airtrim.services.levelling import foreseen
from airtrim.services.measuring import mix_profile
from airtrim.store.handing import THERE
from airtrim.store.store import NO_FACTS, ShelfFacts, Store
from airtrim.store.tables import UNFINISHED, EpisodeRow


def standing_of(store: Store, episode_id: int, revision: int) -> tuple[Step, ...]:
    """Every step of an episode at a revision."""
    timeline = store.timeline(episode_id, revision)
    if timeline.frames == 0:
        return steps(Known(0, timeline.tags))
    words = store.words(timeline)
    voices = voice_takes(timeline)
    profile = mix_profile(store, timeline)
    levels = None if profile is None else foreseen(timeline, words, profile)
    handed = next((one for one in store.hand_overs(episode_id) if one.state in THERE), None)
    return steps(
        Known(
            frames=timeline.frames,
            tags=timeline.tags,
            writing=_writes(store, episode_id),
            transcribed=all(take in words for take in voices),
            snags=sum(not snag.kept for snag in snags(store, episode_id, revision)),
            lufs=levels.after if levels else None,
            even=levels.even(timeline.loudness.target) if levels else None,
            behind=behind(store, episode_id, revision),
            handed_over=store.any_destination(handed.destination_id).name if handed else "",
            public=handed is not None and handed.state == "published",
            overdue=handed is not None and handed.state == "overdue",
        )
    )


def _writes(store: Store, episode_id: int) -> bool:
    jobs = store.jobs(episode_id, UNFINISHED)
    return any(job.kind in ("transcribe", "import", "batch") for job in jobs)


def standings(store: Store, episodes: Iterable[EpisodeRow]) -> dict[int, str]:
    """How far episodes on the shelf are, each in a word, without opening their documents."""
    facts = store.shelf_facts()
    return {row.id or 0: _in_a_word(row, facts.get(row.id or 0, NO_FACTS)) for row in episodes}


def _in_a_word(row: EpisodeRow, facts: ShelfFacts) -> str:
    return in_a_word(
        Known(
            frames=row.frames,
            tags=Tags(),
            transcribed=not facts.without_words,
            behind=None if facts.file_of is None else int(facts.file_of != (row.head_id or 0)),
            handed_over=facts.handed_over,
            public=facts.public,
            overdue=facts.overdue,
        )
    )
