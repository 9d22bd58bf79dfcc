"""The timeline and its parts: frozen values, time in whole frames at 48 kHz.

Clips of one track never overlap. Where two clips touch and their sound is not continuous there is
a *splice*: the right clip's ``fade_in`` is the length of the crossfade, which the renderer centres
on the splice using the sound that lies beyond both edges. So a cut is a plain split, and putting it
back is a plain merge.
"""

from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from airtrim.core.timeline.tags import Tags

TrackKind = Literal["voice", "music"]
Layout = Literal["mono", "stereo"]

CROSSFADE_FRAMES = 480
"""10 ms; common practice is 5 to 20 ms at a splice."""


class Clip(NamedTuple):
    """``frames`` of ``take`` from frame ``start``, placed at frame ``at`` of the timeline.

    A tuple, since an edit moves thousands of them."""

    take: str
    start: int
    frames: int
    at: int
    gain_db: float = 0.0
    fade_in: int = 0
    fade_out: int = 0

    @property
    def end(self) -> int:
        """First timeline frame after the clip."""
        return self.at + self.frames

    def continues_into(self, right: "Clip") -> bool:
        """Whether ``right`` goes on in this take just where this clip leaves off."""
        return (
            self.take == right.take
            and self.end == right.at
            and self.start + self.frames == right.start
            and self.gain_db == right.gain_db
        )


@dataclass(frozen=True, slots=True)
class Track:
    """One voice or the music; ``clips`` in order of time."""

    id: str
    name: str
    kind: TrackKind = "voice"
    clips: tuple[Clip, ...] = ()


@dataclass(frozen=True, slots=True)
class Section:
    """A stretch of the episode levelled by one gain. It lasts until the next section."""

    id: str
    at: int
    name: str
    gain_db: float = 0.0


MarkerKind = Literal["flag", "gap"]
"""``flag``: the host noted a mistake while speaking; ``gap``: sound was lost while recording."""


@dataclass(frozen=True, slots=True)
class Marker:
    """A named moment."""

    id: str
    at: int
    kind: MarkerKind
    name: str


@dataclass(frozen=True, slots=True)
class Piece:
    """What a cut took out: each track's clips, sections, earlier cuts and markers, counted from
    the piece's own start. ``clips`` runs parallel to the tracks it came from (``tracks``);
    ``removed`` counts the frames of earlier cuts inside it as well."""

    frames: int
    removed: int
    tracks: tuple[str, ...]
    clips: tuple[tuple[Clip, ...], ...]
    sections: tuple[Section, ...] = ()
    cuts: tuple["Removed", ...] = ()
    markers: tuple[Marker, ...] = ()


class Removed(NamedTuple):
    """A cut in place: its number, where the splice is now, and what it took out."""

    id: int
    at: int
    piece: Piece


@dataclass(frozen=True, slots=True)
class Loudness:
    """Where the episode shall end up. ``target_lufs`` None means by layout: −19 mono, −16 stereo
    (common practice). ``gain_db`` brings the whole there, after the sections' own gains."""

    layout: Layout = "mono"
    target_lufs: float | None = None
    ceiling_dbtp: float = -1.0
    gain_db: float = 0.0

    @property
    def channels(self) -> int:
        """1 or 2."""
        return 1 if self.layout == "mono" else 2

    @property
    def target(self) -> float:
        """The target in LUFS, the default filled in."""
        return self.usual_target if self.target_lufs is None else self.target_lufs

    @property
    def usual_target(self) -> float:
        """The target in LUFS where none was set: by layout."""
        return -19.0 if self.layout == "mono" else -16.0


@dataclass(frozen=True, slots=True)
class Timeline:
    """The whole document. ``corrections`` maps ``"take:word number"`` to the corrected text;
    ``artwork`` is the SHA-256 of the cover."""

    tracks: tuple[Track, ...] = ()
    sections: tuple[Section, ...] = (Section("s0", 0, "Whole episode"),)
    cuts: tuple[Removed, ...] = ()
    markers: tuple[Marker, ...] = ()
    corrections: dict[str, str] = field(default_factory=dict)
    loudness: Loudness = Loudness()
    tags: Tags = Tags()
    artwork: str | None = None
    next_id: int = 1

    @property
    def frames(self) -> int:
        """Length: the end of the last clip."""
        return max((track.clips[-1].end for track in self.tracks if track.clips), default=0)

    @property
    def trimmed(self) -> int:
        """Frames taken out by cuts, cuts within cuts included."""
        return sum(cut.piece.removed for cut in self.cuts)

    def takes(self) -> set[str]:
        """Every take in use, those inside cuts included."""
        found = {clip.take for track in self.tracks for clip in track.clips}
        for cut in self.cuts:
            found |= _takes_of(cut.piece)
        return found


def _takes_of(piece: Piece) -> set[str]:
    found = {clip.take for clips in piece.clips for clip in clips}
    for cut in piece.cuts:
        found |= _takes_of(cut.piece)
    return found
