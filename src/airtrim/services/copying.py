"""Copies of an episode: of the whole, and one for each of its parts."""

from airtrim.core.progress import Progress
from airtrim.core.timeline.edits.parts import OnlyPart
from airtrim.errors import BadInput
from airtrim.store.copying import copy_episode
from airtrim.store.store import Store
from airtrim.store.tables import EpisodeRow


def copied(store: Store, episode_id: int) -> EpisodeRow:
    """A copy of an episode, called so."""
    episode, _ = store.episode(episode_id)
    return copy_episode(store, episode_id, f"{episode.title[:190]}, copy")


def parts_apart(store: Store, episode_id: int, revision: int, progress: Progress) -> list[int]:
    """An episode for each part; the source stays whole, and so does the history of each. Stopped or
    failed, none of them is left."""
    timeline = store.timeline(episode_id, revision)
    if (store.episode(episode_id)[0].head_id or 0) != revision:
        raise BadInput("The episode was changed meanwhile. Nothing was made.")
    made: list[int] = []
    try:
        for number, section in enumerate(timeline.sections):
            progress(number / len(timeline.sections), f"Making “{section.name}” an episode")
            copy = copy_episode(store, episode_id, section.name)
            made.append(copy.id or 0)
            with store.changing(made[-1], None) as change:
                change(OnlyPart(section=section.id))
    except BaseException:
        for one in made:
            store.change_episode(one, deleted=True)
        raise
    return made
