"""Looking an episode over before it goes out."""

import json
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from airtrim.core.loudness.levelling import Levels
from airtrim.core.loudness.meter import CELL_FRAMES, Profile
from airtrim.core.release.checks import Facts, Gentler, Line, checked
from airtrim.core.render.solo import speech_on
from airtrim.core.sound.study import peaks_of
from airtrim.core.sound.suggesting import first_compressor
from airtrim.core.timeline.edits.tracks import SetChain
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tone import is_tone, voice_takes
from airtrim.core.timeline.words import PlacedWord, words_on
from airtrim.errors import empty_episode
from airtrim.services.finding import snags
from airtrim.services.levelling import foreseen
from airtrim.services.measuring import mix_profile
from airtrim.services.shelving import OWN_CREDIT
from airtrim.store.store import Store

_SILENT_DB = -50.0
"""Peaks under this, after all gains, are nothing that a listener hears (common practice)."""


def check_episode(store: Store, episode_id: int, revision: int) -> list[Line]:
    """Every line of the check. Raises BadInput for an empty episode."""
    timeline = store.timeline(episode_id, revision)
    if timeline.frames == 0:
        raise empty_episode("there is nothing to check")
    episode, show = store.episode(episode_id)
    words = store.words(timeline)
    placed = words_on(timeline, words)
    profile = mix_profile(store, timeline)
    voices = voice_takes(timeline)
    (others,) = [episodes for one, episodes in store.shows() if one.id == show.id]
    levels = None if profile is None else foreseen(timeline, words, profile)
    return checked(
        Facts(
            timeline,
            title=episode.title,
            show=show.name,
            words=placed,
            snags=snags(store, episode_id, revision),
            levels=levels,
            edges=None if profile is None else _edges(timeline, profile),
            artwork=store.files.artwork(timeline.artwork).read_bytes()
            if timeline.artwork
            else None,
            taken=frozenset(
                (one.season, one.number)
                for one in others
                if one.id != episode_id and one.number is not None
            ),
            credits=credits_of(store, episode_id, timeline),
            behind=behind(store, episode_id, revision),
            gentler=_gentler(store, timeline, placed, levels),
            transcribed=all(take in words for take in voices),
        )
    )


def _gentler(
    store: Store, timeline: Timeline, words: Sequence[PlacedWord], levels: Levels | None
) -> Gentler | None:
    """Where the limiter is heard: the voice without a compressor whose peaks stand highest."""
    if levels is None or not levels.limiter_heard:
        return None
    found = []
    for track in timeline.tracks:
        if track.kind == "voice" and track.clips and not track.chain.compressor.on:
            spans = [(word.start, word.end) for word in words if word.track == track.id]
            peaks = peaks_of(speech_on(timeline, store.reader, track.id, spans))
            if peaks:
                found.append((peaks, track))
    if not found:
        return None
    peaks, track = max(found, key=lambda one: one[0].crest_db)
    chain = replace(track.chain, compressor=first_compressor(peaks.dbfs))
    edit = SetChain(track=track.id, chain=chain, name=f"Compressed {track.name}")
    return Gentler(track.name, edit.model_dump(mode="json"))


def behind(store: Store, episode_id: int, revision: int) -> int | None:
    """How many edits the newest file of an episode is behind a revision; None without a file."""
    made = [
        job
        for job in store.jobs(episode_id, ("done",))
        if job.kind == "export" and store.files.export(job.id).exists()
    ]
    if not made:
        return None
    newest = max(made, key=lambda job: job.created_at)
    return edits_since(store, episode_id, json.loads(newest.params)["revision"], revision)


def edits_since(store: Store, episode_id: int, then: int, now: int) -> int:
    """How many edits lie between two revisions, in either direction; at least one where they are
    not the same."""
    if then == now:
        return 0
    order = [0, *(entry.revision for entry in store.history(episode_id))]
    if then in order and now in order:
        return abs(order.index(now) - order.index(then))
    return 1


def _edges(timeline: Timeline, profile: Profile) -> tuple[int, int]:
    """How long nothing is heard before the first sound and after the last, in frames."""
    gain = 10.0 ** (timeline.loudness.gain_db / 20.0)
    heard = np.flatnonzero(profile.peak * gain > 10.0 ** (_SILENT_DB / 20.0))
    if not len(heard):
        return 0, 0
    last = (int(heard[-1]) + 1) * CELL_FRAMES
    return int(heard[0]) * CELL_FRAMES, max(0, timeline.frames - last)


def credits_of(store: Store, episode_id: int, timeline: Timeline) -> list[str]:
    """What the sounds in an episode ask to be named by, each once."""
    _, show = store.episode(episode_id)
    takes = {take for track in timeline.tracks for take in track.clips.takes if not is_tone(take)}
    sums = {store.take(take).sha256 for take in takes}
    asked = [
        sound.credit
        for sound in store.sounds(show.id or 0)
        if sound.sha256 in sums and sound.credit and sound.credit != OWN_CREDIT
    ]
    return list(dict.fromkeys(asked))
