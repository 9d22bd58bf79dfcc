"""Tracks: adding, changing, ordering, removing them, and what is done to their sound."""

from dataclasses import fields, replace
from typing import Literal, Self

from pydantic import Field

from airtrim.core.timeline import arranging
from airtrim.core.timeline.bounds import MOST_TRACKS
from airtrim.core.timeline.chain import NEUTRAL, Chain
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Gain, HistoryName, TrackName
from airtrim.core.timeline.edits.wording import decibels, track_name
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Colour, Timeline, TrackKind
from airtrim.errors import BadInput


class AddTrack(EditBase):
    """A new, empty track."""

    kind: Literal["add_track"] = "add_track"
    name: TrackName
    track_kind: TrackKind = "voice"

    def apply(self, timeline: Timeline) -> Timeline:
        _check_name(timeline, self.name)
        return arranging.with_new_track(timeline, self.name, self.track_kind)

    def describe(self, timeline: Timeline) -> str:
        return f"Added track {self.name}"


class SetTrack(EditBase):
    """Rename a track, or set its kind, colour, gain, mute or solo. What is None stays."""

    kind: Literal["set_track"] = "set_track"
    track: str
    name: TrackName | None = None
    track_kind: TrackKind | None = None
    colour: Colour | None = None
    gain_db: Gain | None = None
    muted: bool | None = None
    soloed: bool | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        track = timeline.track(self.track)
        if self.name is not None and self.name != track.name:
            _check_name(timeline, self.name)
        if track.held and self.track_kind == "voice":
            raise BadInput("Sounds stand on that track; it is no voice. Nothing was changed.")
        changed = replace(
            track,
            name=track.name if self.name is None else self.name,
            kind=self.track_kind or track.kind,
            colour=self.colour or track.colour,
            gain_db=track.gain_db if self.gain_db is None else self.gain_db,
            muted=track.muted if self.muted is None else self.muted,
            soloed=track.soloed if self.soloed is None else self.soloed,
        )
        return arranging.with_track(timeline, changed)

    def describe(self, timeline: Timeline) -> str:
        name = track_name(timeline, self.track)
        if self.name is not None:
            return f"Renamed {name} to {self.name}"
        if self.muted is not None:
            return f"Muted {name}" if self.muted else f"Unmuted {name}"
        if self.soloed is not None:
            return f"Soloed {name}" if self.soloed else f"Ended the solo of {name}"
        if self.gain_db is not None:
            return f"Set {name} to {decibels(self.gain_db)}"
        return f"Changed track {name}"


class OrderTracks(EditBase):
    """Put the tracks in another order."""

    kind: Literal["order_tracks"] = "order_tracks"
    tracks: tuple[str, ...] = Field(max_length=MOST_TRACKS)

    def apply(self, timeline: Timeline) -> Timeline:
        by_id = {t.id: t for t in timeline.tracks}
        if sorted(self.tracks) != sorted(by_id):
            raise BadInput("The tracks have changed meanwhile. Nothing was changed.")
        return replace(timeline, tracks=tuple(by_id[number] for number in self.tracks))

    def relocated(self, frames: FrameMap) -> Self:
        own, now = (tuple(t.id for t in d.tracks) for d in (frames.own, frames.now))
        frames.value(own, now, self.tracks)
        return self

    def describe(self, timeline: Timeline) -> str:
        return "Changed the order of tracks"


class RemoveTrack(EditBase):
    """Take a track out of the episode, with all that is on it."""

    kind: Literal["remove_track"] = "remove_track"
    track: str

    def apply(self, timeline: Timeline) -> Timeline:
        gone = timeline.track(self.track)
        if gone.held:
            raise BadInput(
                "Sounds stand on that track. Take them out in the Rundown: it goes with the last "
                "of them. Nothing was changed."
            )
        kept = tuple(t for t in timeline.tracks if t is not gone)
        return arranging.settled(replace(timeline, tracks=kept))

    def describe(self, timeline: Timeline) -> str:
        return f"Deleted track {track_name(timeline, self.track)}"


class SetChain(EditBase):
    """Set what is done to a track's sound. ``name`` says in the history what was changed."""

    kind: Literal["set_chain"] = "set_chain"
    track: str
    chain: Chain
    name: HistoryName = ""

    def apply(self, timeline: Timeline) -> Timeline:
        track = timeline.track(self.track)
        return arranging.with_track(timeline, replace(track, chain=self.chain))

    def relocated(self, frames: FrameMap) -> Self:
        steps = [field.name for field in fields(Chain)]
        values = frames.values(steps, self.chain, lambda t: _chain_of(t, self.track))
        return self.model_copy(update={"chain": replace(self.chain, **values)})

    def describe(self, timeline: Timeline) -> str:
        return self.name or f"Changed the sound of {track_name(timeline, self.track)}"


def _chain_of(timeline: Timeline, track_id: str) -> Chain:
    return next((track.chain for track in timeline.tracks if track.id == track_id), NEUTRAL)


def _check_name(timeline: Timeline, name: str) -> None:
    if any(track.name == name for track in timeline.tracks):
        raise BadInput(f"There is a track “{name}” already. Nothing was changed.")
