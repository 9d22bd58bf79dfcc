"""The timeline and its parts: frozen values, time in whole frames at 48 kHz.

Clips of one track never overlap. Where two clips touch and their sound is not continuous there is
a *splice*: the right clip's ``fade_in`` is the length of the crossfade, which the renderer centres
on the splice using the sound that lies beyond both edges. So a cut is a plain split, and putting it
back is a plain merge.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal, NamedTuple, overload

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

from airtrim.core.timeline.chain import NEUTRAL, Chain
from airtrim.core.timeline.clips import Clips
from airtrim.core.timeline.envelope import Envelope
from airtrim.core.timeline.placed import Placed
from airtrim.core.timeline.speakers import Voices
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.waiting import FileFormat, WaitingRow
from airtrim.errors import BadInput

TrackKind = Literal["voice", "music"]
Layout = Literal["mono", "stereo"]
Colour = Literal["pine", "violet", "ochre", "slate", "rose", "moss"]

CROSSFADE_FRAMES = 480
"""10 ms; common practice is 5 to 20 ms at a splice."""


@dataclass(frozen=True, slots=True)
class Track:
    """One voice or the music; ``clips`` in order of time. ``envelope`` is its gain over time, which
    ``gain_db`` comes on top of; ``colour`` None means by its kind and place; ``chain`` is what is
    done to its sound before both. ``held``: placed sounds stand on it, and follow the talk."""

    id: str
    name: str
    kind: TrackKind = "voice"
    clips: Clips = field(default_factory=Clips)
    gain_db: float = 0.0
    muted: bool = False
    soloed: bool = False
    colour: Colour | None = None
    envelope: Envelope = ()
    chain: Chain = NEUTRAL
    held: bool = False

    @property
    def frames(self) -> int:
        """Where its last clip ends."""
        return self.clips[-1].end if len(self.clips) else 0


@dataclass(frozen=True, slots=True)
class Section:
    """A stretch of the episode levelled by one gain. It lasts until the next section."""

    id: str
    at: int
    name: str
    gain_db: float = 0.0


MarkerKind = Literal["flag", "gap", "note", "todo", "part", "chapter"]
"""``flag``: the host noted a mistake while speaking; ``gap``: sound was lost while recording;
``note``: a place to find again; ``todo``: something still to be done there; ``part``: where a part
is to begin; ``chapter``: where a chapter of the released file begins."""


@dataclass(frozen=True, slots=True)
class Marker:
    """A named moment. ``link`` and ``artwork``, the SHA-256 of a picture, are a chapter's."""

    id: str
    at: int
    kind: MarkerKind
    name: str
    link: str = ""
    artwork: str | None = None


@dataclass(frozen=True, slots=True)
class Piece:
    """What a cut took out: each track's clips, sections, earlier cuts and markers, counted from
    the piece's own start. ``clips`` and ``envelopes`` run parallel to the tracks they came from
    (``tracks``), as do ``anchors``, the points that hold the gain on either side of the splice;
    ``removed`` counts the frames of earlier cuts inside it as well; ``shortened`` by how many
    frames it made what stands instead of earlier cuts shorter, by their numbers."""

    frames: int
    removed: int
    tracks: tuple[str, ...]
    clips: tuple[Clips, ...]
    sections: tuple[Section, ...] = ()
    cuts: "Cuts" = field(default_factory=lambda: Cuts())
    markers: tuple[Marker, ...] = ()
    shortened: tuple[tuple[int, int], ...] = ()
    envelopes: tuple[Envelope, ...] = ()
    anchors: tuple[Envelope, ...] = ()


@dataclass(frozen=True, slots=True)
class Loose:
    """A part that was put aside: its section, what stood in it, and the tracks that had sound in
    it, empty, in case one is deleted before the part is brought back."""

    section: Section
    piece: Piece
    tracks: tuple[Track, ...] = ()


class Span(NamedTuple):
    """``frames`` of ``take`` from frame ``start``."""

    take: str
    start: int
    frames: int


class Removed(NamedTuple):
    """A cut in place: its number, where the splice is now, and what it took out. ``instead``: how
    many frames from there were put in its place, which it can be exchanged with."""

    id: int
    at: int
    piece: Piece
    instead: int = 0


_ID, _AT, _INSTEAD, _REMOVED = range(4)


class Cuts(Sequence[Removed]):
    """Cuts in order of place, kept as columns as clips are. Immutable."""

    __slots__ = ("_pieces", "_rows")

    def __init__(self, cuts: Iterable[Removed] = ()) -> None:
        several = list(cuts)
        self._pieces: tuple[Piece, ...] = tuple(cut.piece for cut in several)
        rows = [(cut.id, cut.at, cut.instead, cut.piece.removed) for cut in several]
        self._rows = np.array(rows, np.int64).reshape(-1, 4)

    @classmethod
    def _of(cls, rows: NDArray[np.int64], pieces: tuple[Piece, ...]) -> "Cuts":
        made = cls.__new__(cls)
        made._rows, made._pieces = rows, pieces
        return made

    def __len__(self) -> int:
        return len(self._pieces)

    @overload
    def __getitem__(self, index: int) -> Removed: ...

    @overload
    def __getitem__(self, index: slice) -> "Cuts": ...

    def __getitem__(self, index: int | slice) -> "Removed | Cuts":
        if isinstance(index, slice):
            return self._of(self._rows[index], self._pieces[index])
        number, at, instead, _ = self._rows[index].tolist()
        return Removed(number, at, self._pieces[index], instead)

    def __iter__(self) -> Iterator[Removed]:
        for (number, at, instead, _), piece in zip(self._rows.tolist(), self._pieces, strict=True):
            yield Removed(number, at, piece, instead)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Cuts):
            return NotImplemented
        return np.array_equal(self._rows, other._rows) and self._pieces == other._pieces

    __hash__ = None  # type: ignore[assignment]

    def __repr__(self) -> str:
        return f"Cuts({list(self)!r})"

    @property
    def removed(self) -> int:
        """Frames that they took out together, cuts within cuts included."""
        return int(self._rows[:, _REMOVED].sum())

    def index_of(self, number: int) -> int | None:
        """Where the cut of that number stands among them."""
        found = np.flatnonzero(self._rows[:, _ID] == number)
        return int(found[0]) if len(found) else None

    def first_from(self, frame: int) -> int:
        """Index of the first whose splice is at ``frame`` or later."""
        return int(np.searchsorted(self._rows[:, _AT], frame, side="left"))

    def first_after(self, frame: int) -> int:
        """Index of the first whose splice is after ``frame``."""
        return int(np.searchsorted(self._rows[:, _AT], frame, side="right"))

    def moved(self, by: int) -> "Cuts":
        """All of them ``by`` frames later."""
        rows = self._rows.copy()
        rows[:, _AT] += by
        return self._of(rows, self._pieces)

    def lengthened(self, by: dict[int, int]) -> "Cuts":
        """With what stands instead of them made longer, by their numbers."""
        if not by:
            return self
        rows = self._rows.copy()
        for number, frames in by.items():
            rows[rows[:, _ID] == number, _INSTEAD] += frames
        return self._of(rows, self._pieces)

    def at_most(self, frame: int) -> "Cuts":
        """With no splice after ``frame``."""
        rows = self._rows.copy()
        np.minimum(rows[:, _AT], frame, out=rows[:, _AT])
        return self._of(rows, self._pieces)

    def with_one(self, index: int, cut: Removed) -> "Cuts":
        """The same with another in place of one."""
        return joined_cuts(self[:index], [cut], self[index + 1 :])

    def replacing(self) -> list[Removed]:
        """Those that something stands in place of."""
        return [self[int(i)] for i in np.flatnonzero(self._rows[:, _INSTEAD] > 0)]

    @classmethod
    def __get_pydantic_core_schema__(
        cls, source: object, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        plain = handler(list[Removed])
        return core_schema.no_info_after_validator_function(
            cls,
            plain,
            serialization=core_schema.plain_serializer_function_ser_schema(
                list, return_schema=plain
            ),
        )


def joined_cuts(*parts: Cuts | Sequence[Removed]) -> Cuts:
    """Parts one after another."""
    several = [part if isinstance(part, Cuts) else Cuts(part) for part in parts]
    pieces: tuple[Piece, ...] = ()
    for part in several:
        pieces += part._pieces
    return Cuts._of(np.concatenate([part._rows for part in several]), pieces)


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


SnagKind = Literal["filler", "air", "repeat", "breath", "noise", "clipping", "level", "word"]
"""What a snag is; ``word``: a cut goes through a word."""


@dataclass(frozen=True, slots=True)
class Kept:
    """A snag that the host wants to stay: its kind and its span in a take, where it is found again
    whatever else is edited."""

    kind: SnagKind
    take: str
    start: Annotated[int, Field(ge=0, lt=2**53)]
    end: Annotated[int, Field(ge=0, lt=2**53)]


@dataclass(frozen=True, slots=True)
class OwnFiller:
    """Words that this host does not want to hear themselves say; ``at_start``: only where a
    sentence begins with them."""

    text: str
    at_start: bool = False


AirLimit = Annotated[float, Field(ge=0.5, le=30.0, allow_inf_nan=False)]
"""In seconds."""


@dataclass(frozen=True, slots=True)
class SnagRules:
    """What counts as a snag here: air from ``air_limit_s`` on (1.5 s is common practice), and the
    host's own fillers."""

    air_limit_s: AirLimit = 1.5
    own_fillers: Annotated[tuple[OwnFiller, ...], Field(max_length=100)] = ()


@dataclass(frozen=True, slots=True)
class Timeline:
    """The whole document.

    ``aside`` are parts that were put aside; ``wanted_frames`` how long the episode shall become;
    ``waiting`` are parts of the setup that it was begun from, until their talk is there;
    ``placed`` the sounds that hold on to the talk, and ``talk`` where somebody speaks in the takes,
    as far as they need it; ``lengths`` are the frames of every take that was ever placed in it;
    ``corrections`` maps ``"take:word number"`` to the corrected text, an empty one where a word was
    joined to the one before it; ``speakers`` who speaks in a take, where it is not who its track is
    named after; ``room_tones`` holds the room tone of takes where it was chosen by hand; ``script``
    is what was meant to be said, or notes for it; ``kept`` are snags that shall stay; ``artwork``
    is the SHA-256 of the cover, ``file_format`` what it is usually written as; ``notices`` are
    sentences about what had to be changed or left out when a stored history was read."""

    tracks: tuple[Track, ...] = ()
    sections: tuple[Section, ...] = (Section("s0", 0, "Whole episode"),)
    aside: tuple[Loose, ...] = ()
    wanted_frames: int | None = None
    placed: tuple[Placed, ...] = ()
    waiting: tuple[WaitingRow, ...] = ()
    talk: dict[str, Talk] = field(default_factory=dict)
    cuts: Cuts = field(default_factory=Cuts)
    markers: tuple[Marker, ...] = ()
    lengths: dict[str, int] = field(default_factory=dict)
    corrections: dict[str, str] = field(default_factory=dict)
    speakers: dict[str, Voices] = field(default_factory=dict)
    room_tones: dict[str, Span] = field(default_factory=dict)
    script: str = ""
    kept: tuple[Kept, ...] = ()
    snag_rules: SnagRules = SnagRules()
    loudness: Loudness = Loudness()
    tags: Tags = Tags()
    artwork: str | None = None
    file_format: FileFormat | None = None
    next_id: int = 1
    notices: tuple[str, ...] = ()

    @property
    def frames(self) -> int:
        """Length: the end of the last clip."""
        return max((track.frames for track in self.tracks), default=0)

    @property
    def parts(self) -> list[tuple[Section, int]]:
        """The sections in order, each with the first frame after it."""
        ends = [*(section.at for section in self.sections[1:]), self.frames]
        return list(zip(self.sections, ends, strict=True))

    @property
    def trimmed(self) -> int:
        """Frames taken out by cuts, cuts within cuts included."""
        return self.cuts.removed

    def track(self, track_id: str) -> Track:
        """The track of that id. Raises BadInput where it is gone."""
        for track in self.tracks:
            if track.id == track_id:
                return track
        raise BadInput("That track is no longer in the episode. Nothing was changed.")

    def takes(self) -> set[str]:
        """Every take that was placed in it, those that only cuts hold included."""
        return set(self.lengths)
