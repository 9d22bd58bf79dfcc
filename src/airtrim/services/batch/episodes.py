"""An episode of the shelf through a batch: the edits that a host would make, one after the other,
each to be undone by itself."""

import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from functools import partial

from pydantic import BaseModel, ConfigDict, Field

from airtrim.core.loudness.riding import Riding
from airtrim.core.progress import Progress, part
from airtrim.core.release.export import ExportSettings
from airtrim.core.snags.decide import How
from airtrim.core.sound.choosing import NOTHING, chosen
from airtrim.core.timeline.chain import Chain, Echo, Noise
from airtrim.core.timeline.edits.loudness import SetLoudness
from airtrim.core.timeline.edits.tracks import SetChain
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.tone import voice_takes
from airtrim.errors import BadInput, Busy, Stale, empty_episode
from airtrim.services.cleaning import clean_missing, noise_on
from airtrim.services.editing import tidy_up
from airtrim.services.levelling import even_out, ride_gain
from airtrim.services.measuring import measure
from airtrim.services.transcribing import write_down
from airtrim.settings import Settings
from airtrim.store.store import Store

_TRIES = 30
"""How often a step starts again because the host edited the episode meanwhile."""
_QUIET_S = 5.0
"""A step that met an edit starts again once the episode has not changed for this long."""
_LOOK_EVERY_S = 0.5


class EpisodeRecipe(BaseModel):
    """What is done to each episode. What is not asked for stays as it is in the episode; each is
    brought to its loudness."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    tidy: How | None = None
    clean: float | None = Field(default=None, ge=0.0, le=1.0)
    """How far the room is lowered, 0 to 1."""
    echo: bool = False
    level: bool = False
    """Whether phrases are brought nearer to each other, before the parts are."""
    target_lufs: float | None = Field(default=None, ge=-36.0, le=-8.0)
    """None: that of each episode."""
    file: ExportSettings = ExportSettings()


def prepare(
    store: Store,
    settings: Settings,
    episode_id: int,
    recipe: EpisodeRecipe,
    writing: Callable[[str], bool],
    progress: Progress,
) -> tuple[int, tuple[str, ...]]:
    """Do to an episode what a recipe says; returns the revision after it, and what could not be
    done and why. ``writing`` tells whether the words of a take are being written down already.

    Raises BadInput where there is no sound in the episode.
    """
    if store.current(episode_id).frames == 0:
        raise empty_episode("there is nothing to make")
    steps: list[Callable[[int, Progress], int]] = []
    if recipe.tidy:
        steps.append(partial(_tidied, store, episode_id, recipe.tidy))
    if recipe.clean or recipe.echo:
        steps.append(partial(_cleaned, store, episode_id, recipe))
    if recipe.target_lufs is not None:
        steps.append(partial(_aimed, store, episode_id, recipe.target_lufs))
    if recipe.level:
        steps.append(partial(_levelled, store, episode_id))
    _write_words(store, settings, episode_id, writing, part(progress, 0.0, 0.6))
    undone: list[str] = []
    for number, step in enumerate(steps):
        low, high = (0.6 + 0.2 * (number + i) / len(steps) for i in (0, 1))
        try:
            _on_what_stands(store, episode_id, step, part(progress, low, high))
        except BadInput as error:  # there is nothing of that kind to do
            undone.append(str(error))
    evened = partial(_evened, store, episode_id)
    return _on_what_stands(store, episode_id, evened, part(progress, 0.8, 1.0)), tuple(undone)


def _on_what_stands(
    store: Store, episode_id: int, step: Callable[[int, Progress], int], progress: Progress
) -> int:
    """Make a step on the current document. Where the host edits it meanwhile, wait for a pause in
    the edits and start again."""
    for attempt in range(_TRIES):
        with suppress(Stale):
            return step(store.episode(episode_id)[0].head_id or 0, progress)
        if attempt:
            _wait_for_quiet(store, episode_id, progress)
    raise Busy(
        "The episode was edited the whole time, so the batch could not work on it. Nothing was "
        "lost. Start the batch again when the edits are done."
    )


def _wait_for_quiet(store: Store, episode_id: int, progress: Progress) -> None:
    quiet_since, known = time.monotonic(), None
    while time.monotonic() - quiet_since < _QUIET_S:
        progress(0.0, "Waiting for a pause in the edits")
        head = store.episode(episode_id)[0].head_id
        if head != known:
            quiet_since, known = time.monotonic(), head
        time.sleep(_LOOK_EVERY_S)


def _write_words(
    store: Store,
    settings: Settings,
    episode_id: int,
    writing: Callable[[str], bool],
    progress: Progress,
) -> None:
    """Have the words of all recordings of voices; those that somebody writes down already are
    waited for."""
    used = voice_takes(store.current(episode_id))
    for number, take in enumerate(sorted(used)):
        telling = part(progress, number / len(used), (number + 1) / len(used))
        while writing(take):
            telling(0.0, "Waiting for the words")
            time.sleep(_LOOK_EVERY_S)
        if store.words_of(take) is None:
            write_down(store, settings, take, telling)


def _tidied(store: Store, episode_id: int, how: How, revision: int, progress: Progress) -> int:
    progress(0.0, "Looking for snags")
    return tidy_up(store, episode_id, revision, how)


def _cleaned(
    store: Store, episode_id: int, recipe: EpisodeRecipe, revision: int, progress: Progress
) -> int:
    """What is taken out of each voice is chosen as the screen would suggest it."""
    voices = _voices(store.timeline(episode_id, revision))
    chains = [(track, _chain(store, track, recipe, progress)) for track in voices]
    with store.changing(episode_id, revision) as change:
        for track, chain in chains:
            if chain != track.chain:
                change(SetChain(track=track.id, chain=chain), f"Lowered the room of {track.name}")
    clean_missing(store, change.timeline, progress)
    return change.revision


def _voices(timeline: Timeline) -> list[Track]:
    return [track for track in timeline.tracks if track.kind == "voice" and len(track.clips)]


def _chain(store: Store, track: Track, recipe: EpisodeRecipe, progress: Progress) -> Chain:
    noise = track.chain.noise
    if recipe.clean:
        progress(0.0, "Listening to the noise")
        noise = Noise(True, recipe.clean, chosen(noise_on(store, track) or NOTHING).method)
    return replace(track.chain, noise=noise, echo=Echo(recipe.echo or track.chain.echo.on))


def _aimed(
    store: Store, episode_id: int, target_lufs: float, revision: int, _progress: Progress
) -> int:
    now = store.timeline(episode_id, revision).loudness
    if now.target_lufs == target_lufs:
        return revision
    edit = SetLoudness(layout=now.layout, target_lufs=target_lufs, ceiling_dbtp=now.ceiling_dbtp)
    return store.edit(episode_id, revision, edit)


def _levelled(store: Store, episode_id: int, revision: int, progress: Progress) -> int:
    return ride_gain(store, episode_id, revision, progress, riding=Riding())


def _evened(store: Store, episode_id: int, revision: int, progress: Progress) -> int:
    timeline = store.timeline(episode_id, revision)
    clean_missing(store, timeline, part(progress, 0.0, 0.5))
    measure(store, timeline, part(progress, 0.5, 1.0))
    return even_out(store, episode_id, revision)
