"""Measuring an episode: the loudness of its mix and of each voice, kept until something changes."""

import hashlib
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from pydantic import TypeAdapter

from airtrim.core.loudness.meter import Profile
from airtrim.core.progress import Progress
from airtrim.core.render.graph import profile_mix
from airtrim.core.render.solo import Energies, track_energy, voices_of
from airtrim.core.timeline.model import Span, Timeline, Track
from airtrim.store.store import Store

_TRACKS = TypeAdapter(tuple[Track, ...])
_TONES = TypeAdapter(dict[str, Span])


def profile_key(timeline: Timeline) -> str:
    """The key of the measurement of a document: everything that changes its mix, and nothing else.
    A track that is renamed or recoloured keeps its measurement."""
    return _key(timeline, timeline.tracks)


def track_key(timeline: Timeline, track: Track) -> str:
    """The same for one track by itself, muted or not."""
    return _key(timeline, (replace(track, muted=False, soloed=False),))


def _key(timeline: Timeline, tracks: Sequence[Track]) -> str:
    heard = tuple(replace(track, name="", colour=None) for track in tracks)
    mix = _TRACKS.dump_json(heard) + timeline.loudness.layout.encode()
    if any(track.chain.noise.on for track in tracks):
        mix += _TONES.dump_json(timeline.room_tones)
    return hashlib.sha256(mix).hexdigest()


def mix_profile(store: Store, timeline: Timeline) -> Profile | None:
    """What was measured of the mix of a document, if it was."""
    found = store.profile(profile_key(timeline))
    # An only voice has the key of its mix, and may have been measured without its peaks.
    return found if found is not None and len(found.peak) == len(found.energy) else None


def measure(store: Store, timeline: Timeline, progress: Progress) -> None:
    """Measure the mix of a document, and each voice, unless that was done already."""
    if mix_profile(store, timeline) is None:
        profile = profile_mix(timeline, store.reader, lambda f: progress(f, "Measuring loudness"))
        store.save_profile(profile_key(timeline), profile)
    energies_of(store, timeline, progress)


def energies_of(store: Store, timeline: Timeline, progress: Progress | None = None) -> Energies:
    """The energy of each voice by itself; measured now where it was not, if there is somebody to
    tell of it, or left out."""
    out: Energies = {}
    for track in voices_of(timeline):
        key = track_key(timeline, track)
        known = store.profile(key)
        if known is not None:
            out[track.id] = known.energy
        elif progress is not None:
            energy = track_energy(
                timeline,
                store.reader,
                track.id,
                lambda f, name=track.name: progress(f, f"Measuring {name}"),  # type: ignore[misc]
            )
            store.save_profile(key, Profile(energy, np.zeros(0, np.float32), 0.0))
            out[track.id] = energy
    return out
