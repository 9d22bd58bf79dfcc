"""Edits as values, and the one pure function that applies them."""

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline import arranging, envelope
from airtrim.core.timeline.bounds import (
    LEAST_GAIN_DB,
    MOST_FRAMES,
    MOST_GAIN_DB,
    MOST_NUMBER,
    brought_within,
    clamped,
    held,
)
from airtrim.core.timeline.chain import Chain
from airtrim.core.timeline.clips import Clip, Clips, Shape, joined
from airtrim.core.timeline.cutting import (
    cut,
    exchange,
    merged,
    move,
    move_edges,
    open_up,
    put_in,
    restore,
    within_episode,
)
from airtrim.core.timeline.envelope import Point
from airtrim.core.timeline.model import (
    CROSSFADE_FRAMES,
    Colour,
    Kept,
    Layout,
    Loudness,
    Marker,
    MarkerKind,
    OwnFiller,
    Piece,
    Section,
    SnagRules,
    Span,
    Timeline,
    Track,
    TrackKind,
)
from airtrim.core.timeline.speakers import Voices, renamed, with_speaker
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput

MOST_TRACKS = 24
_LONGEST_FADE_FRAMES = 60 * FRAME_RATE
_RAMP_FRAMES = FRAME_RATE // 20

Frame = Annotated[int, Field(ge=0, le=MOST_FRAMES)]
Length = Annotated[int, Field(gt=0, le=MOST_FRAMES)]
Fade = Annotated[int, Field(ge=0, le=_LONGEST_FADE_FRAMES)]
Gain = Annotated[float, Field(ge=LEAST_GAIN_DB, le=MOST_GAIN_DB, allow_inf_nan=False)]
LevelGain = Annotated[float, Field(ge=-120.0, le=120.0, allow_inf_nan=False)]
"""A gain that levels a section or the whole: what was measured may be very quiet."""
Number = Annotated[int, Field(ge=0, le=MOST_NUMBER)]
"""Of a cut, a word, or a revision."""
TrackName = Annotated[str, Field(min_length=1, max_length=80)]
SpeakerName = Annotated[str, Field(max_length=80), AfterValidator(str.strip)]
SomeTracks = Annotated[tuple[str, ...], Field(max_length=MOST_TRACKS)]
"""Ids of tracks; none means all."""


class _Part(BaseModel):
    """What an edit is made of."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class _Edit(_Part):
    """A change of the document."""


class Place(_Edit):
    """Put a whole take on a track, after what is there unless ``at`` says where. A track that is
    not there yet is made. With ``insert`` what is later makes room on every track; without, a take
    longer than the free space at ``at`` is refused."""

    kind: Literal["place"] = "place"
    take: str
    take_frames: Length
    track_name: TrackName = "Voice"
    track_kind: TrackKind = "voice"
    at: Frame | None = None
    insert: bool = False
    gain_db: float = Field(default=0.0, ge=-40.0, le=40.0, allow_inf_nan=False)


class MarkerAt(_Edit):
    """A moment to mark."""

    at: Frame
    kind: MarkerKind = "flag"
    name: str = Field(default="", max_length=120)


class RecordedTake(_Edit):
    """A take of a recording, the track it goes to, and its gain there."""

    take: str
    track_name: str = Field(min_length=1, max_length=80)
    gain_db: float = Field(default=0.0, ge=-40.0, le=40.0, allow_inf_nan=False)


class Record(_Edit):
    """Put what was recorded into the episode: one take a microphone, all ``frames`` long.

    It goes after what is there unless ``at`` says where. There, ``replacing`` frames are cut from
    every track first, then everything later makes room; with ``alongside`` nothing moves, and the
    takes have to fit beside what sounds there. ``markers`` are counted from the takes' start, of
    which ``skip`` frames are left out: the delay of what was played along.
    """

    kind: Literal["record"] = "record"
    takes: tuple[RecordedTake, ...] = Field(min_length=1, max_length=16)
    frames: Length
    skip: Frame = 0
    at: Frame | None = None
    replacing: Frame = 0
    alongside: bool = False
    markers: tuple[MarkerAt, ...] = ()


class AddMarker(_Edit):
    """Mark a moment."""

    kind: Literal["add_marker"] = "add_marker"
    at: Frame
    marks: MarkerKind = "note"
    name: str = Field(default="", max_length=120)


class ChangeMarker(_Edit):
    """Rename a marker, move it, or say what it marks. What is None stays."""

    kind: Literal["change_marker"] = "change_marker"
    marker: str
    at: Frame | None = None
    marks: MarkerKind | None = None
    name: str | None = Field(default=None, max_length=120)


class RemoveMarker(_Edit):
    """Take a marker away."""

    kind: Literal["remove_marker"] = "remove_marker"
    marker: str


class Cut(_Edit):
    """Take ``frames`` from ``start`` out of every track and close up."""

    kind: Literal["cut"] = "cut"
    start: Frame
    frames: Length
    crossfade_frames: Fade = CROSSFADE_FRAMES


class SpanToCut(_Part):
    """``frames`` from ``start``."""

    start: Frame
    frames: Length


class CutMany(_Edit):
    """Take several spans out of every track, in one step. Each stays a cut of its own; spans that
    touch or overlap become one."""

    kind: Literal["cut_many"] = "cut_many"
    spans: tuple[SpanToCut, ...] = Field(min_length=1, max_length=5000)
    crossfade_frames: Fade = CROSSFADE_FRAMES
    name: str = Field(default="", max_length=120)


class Tone(_Part):
    """Room tone: ``frames`` of a take from frame ``start``."""

    take: str
    start: Frame
    frames: Length

    @property
    def span(self) -> Span:
        """The same as a span."""
        return Span(self.take, self.start, self.frames)


class SpanToLevel(_Part):
    """``frames`` from ``start`` of a track, and by how many dB."""

    track: str
    start: Frame
    frames: Length
    by_db: Annotated[float, Field(ge=-40.0, le=40.0, allow_inf_nan=False)]


class SpanToCover(_Part):
    """``frames`` from ``start`` of a track, and the room tone to put over them. None means that of
    the take that sounds there, which whoever applies the edit has to fill in."""

    track: str
    start: Frame
    frames: Length
    tone: Tone | None = None


class Tidy(_Edit):
    """Settle many snags in one step: put cuts back, change levels, cover, then cut; and remember
    which are to stay, or (``unkeep``) no longer are. All spans are told of the document before."""

    kind: Literal["tidy"] = "tidy"
    cuts: tuple[SpanToCut, ...] = Field(default=(), max_length=20_000)
    covers: tuple[SpanToCover, ...] = Field(default=(), max_length=20_000)
    levels: tuple[SpanToLevel, ...] = Field(default=(), max_length=1000)
    restores: tuple[Number, ...] = Field(default=(), max_length=1000)
    keep: tuple[Kept, ...] = Field(default=(), max_length=20_000)
    unkeep: tuple[Kept, ...] = Field(default=(), max_length=20_000)
    name: str = Field(default="", max_length=120)


class SetSnagRules(_Edit):
    """Set what counts as a snag in this episode."""

    kind: Literal["set_snag_rules"] = "set_snag_rules"
    air_limit_s: float = Field(ge=0.5, le=30.0, allow_inf_nan=False)
    own_fillers: tuple[OwnFiller, ...] = Field(default=(), max_length=100)


class KeepOnly(_Edit):
    """Cut everything before and after a span."""

    kind: Literal["keep_only"] = "keep_only"
    start: Frame
    frames: Length
    crossfade_frames: Fade = CROSSFADE_FRAMES


class CutAlone(_Edit):
    """Take a span out of one track. What touches it closes up, to that track's next pause; all
    else stays where it is."""

    kind: Literal["cut_alone"] = "cut_alone"
    track: str
    start: Frame
    frames: Length
    crossfade_frames: Fade = CROSSFADE_FRAMES


class Silence(_Edit):
    """Take the sound of a span away on some tracks; nothing moves."""

    kind: Literal["silence"] = "silence"
    tracks: SomeTracks = ()
    start: Frame
    frames: Length


class Cover(_Edit):
    """Put room tone over a span of one track; nothing moves. ``tone`` None means that of the take
    that sounds there, which whoever applies the edit has to fill in."""

    kind: Literal["cover"] = "cover"
    track: str
    start: Frame
    frames: Length
    tone: Tone | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES


class Uncover(_Edit):
    """Bring back what lies under the room tone, or the silence, at a frame of a track."""

    kind: Literal["uncover"] = "uncover"
    track: str
    at: Frame


class AddAir(_Edit):
    """Make ``frames`` of room at a frame, with room tone for every voice that sounds there.
    ``tones`` None means theirs, which whoever applies the edit has to fill in."""

    kind: Literal["add_air"] = "add_air"
    at: Frame
    frames: int = Field(gt=0, le=600 * FRAME_RATE)
    tones: dict[str, Tone] | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES


class SetAir(_Edit):
    """Make the air from ``start`` as long as ``to_frames``: its middle is cut, or added to."""

    kind: Literal["set_air"] = "set_air"
    start: Frame
    frames: Length
    to_frames: int = Field(gt=0, le=600 * FRAME_RATE)
    tones: dict[str, Tone] | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES


class Move(_Edit):
    """Take a span out of every track and put it in where frame ``to`` is."""

    kind: Literal["move"] = "move"
    start: Frame
    frames: Length
    to: Frame
    crossfade_frames: Fade = CROSSFADE_FRAMES


class CopiedTrack(_Part):
    """What was copied of a track: clips and gain, counted from the start of the span."""

    track: str
    clips: tuple[Clip, ...]
    envelope: tuple[Point, ...] = ()


class Paste(_Edit):
    """Put a copy of ``frames`` from ``start``, as they were at ``revision``, in at a frame.
    ``copied`` is what stood there, which whoever applies the edit has to fill in."""

    kind: Literal["paste"] = "paste"
    revision: Number
    start: Frame
    frames: Length
    at: Frame
    copied: tuple[CopiedTrack, ...] | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES


class GainSpan(_Edit):
    """Change the gain of a span by ``by_db``, reached and left within ``ramp_frames`` outside."""

    kind: Literal["gain_span"] = "gain_span"
    tracks: SomeTracks = ()
    start: Frame
    frames: Length
    by_db: float = Field(ge=-72.0, le=24.0, allow_inf_nan=False)
    ramp_frames: Fade = FRAME_RATE // 5


class GainPoint(_Part):
    """``db`` at a frame, and how it goes on from there."""

    at: Frame
    db: Gain
    shape: Shape = "straight"


class SetEnvelope(_Edit):
    """Set all points of a track's gain."""

    kind: Literal["set_envelope"] = "set_envelope"
    track: str
    points: tuple[GainPoint, ...] = Field(max_length=20_000)


class TrackPoints(_Part):
    """All points of a track's gain."""

    track: str
    points: tuple[GainPoint, ...] = Field(max_length=20_000)


class RideGain(_Edit):
    """Set all points of several tracks' gain in one step: what riding the gain came to."""

    kind: Literal["ride_gain"] = "ride_gain"
    tracks: tuple[TrackPoints, ...] = Field(min_length=1, max_length=MOST_TRACKS)
    name: str = Field(default="", max_length=120)


class SetChain(_Edit):
    """Set what is done to a track's sound. ``name`` says in the history what was changed."""

    kind: Literal["set_chain"] = "set_chain"
    track: str
    chain: Chain
    name: str = Field(default="", max_length=120)


class FadeSpan(_Edit):
    """Fade tracks in (from nothing) or out over a span."""

    kind: Literal["fade_span"] = "fade_span"
    tracks: SomeTracks = ()
    start: Frame
    frames: Length
    inwards: bool
    shape: Shape = "round"


class Split(_Edit):
    """Part the clips at a frame, so that each part can be moved for itself."""

    kind: Literal["split"] = "split"
    at: Frame
    tracks: SomeTracks = ()


class Join(_Edit):
    """Make one again what was split within a span."""

    kind: Literal["join"] = "join"
    start: Frame
    frames: Length


class MoveClip(_Edit):
    """Put the clip that begins at ``at`` where frame ``to`` is, on track ``to_track``."""

    kind: Literal["move_clip"] = "move_clip"
    track: str
    at: Frame
    to_track: str
    to: Frame


class TrimClip(_Edit):
    """Let the clip that begins at ``at`` begin at ``start`` and end at ``end``."""

    kind: Literal["trim_clip"] = "trim_clip"
    track: str
    at: Frame
    start: Frame
    end: Frame


class SetClip(_Edit):
    """Set fades and gain of the clip that begins at ``at``. What is None stays."""

    kind: Literal["set_clip"] = "set_clip"
    track: str
    at: Frame
    fade_in: Fade | None = None
    fade_out: Fade | None = None
    shape_in: Shape | None = None
    shape_out: Shape | None = None
    gain_db: Gain | None = None


class SetSplice(_Edit):
    """Set the crossfade of every track's splice at a frame; what is None stays as it is."""

    kind: Literal["set_splice"] = "set_splice"
    at: Frame
    crossfade_frames: Fade | None = None
    shape: Shape | None = None


class MoveEdges(_Edit):
    """Move the edges of cut number ``cut``: the left by ``left`` frames, the right by ``right``
    (both counted in what was there before the cut; earlier where negative)."""

    kind: Literal["move_edges"] = "move_edges"
    cut: Number
    left: int = Field(default=0, ge=-MOST_FRAMES, le=MOST_FRAMES)
    right: int = Field(default=0, ge=-MOST_FRAMES, le=MOST_FRAMES)


class Restore(_Edit):
    """Put what cut number ``cut`` took out back in its place."""

    kind: Literal["restore"] = "restore"
    cut: Number


class RestoreAll(_Edit):
    """Put everything that was cut within a span back."""

    kind: Literal["restore_all"] = "restore_all"
    start: Frame
    frames: Length


class AddTrack(_Edit):
    """A new, empty track."""

    kind: Literal["add_track"] = "add_track"
    name: TrackName
    track_kind: TrackKind = "voice"


class SetTrack(_Edit):
    """Rename a track, or set its kind, colour, gain, mute or solo. What is None stays."""

    kind: Literal["set_track"] = "set_track"
    track: str
    name: TrackName | None = None
    track_kind: TrackKind | None = None
    colour: Colour | None = None
    gain_db: Gain | None = None
    muted: bool | None = None
    soloed: bool | None = None


class OrderTracks(_Edit):
    """Put the tracks in another order."""

    kind: Literal["order_tracks"] = "order_tracks"
    tracks: tuple[str, ...] = Field(max_length=MOST_TRACKS)


class RemoveTrack(_Edit):
    """Take a track out of the episode, with all that is on it."""

    kind: Literal["remove_track"] = "remove_track"
    track: str


class ChooseTake(_Edit):
    """Exchange what cut number ``cut`` took out with what was recorded in its place."""

    kind: Literal["choose_take"] = "choose_take"
    cut: Number


class ChooseRoomTone(_Edit):
    """Take ``frames`` from ``start`` of the timeline as the room tone of every recording of a voice
    that sounds throughout them."""

    kind: Literal["choose_room_tone"] = "choose_room_tone"
    start: Frame
    frames: Length


class FindRoomTone(_Edit):
    """Leave the room tone of a take to be found, where it was chosen."""

    kind: Literal["find_room_tone"] = "find_room_tone"
    take: str


class SetScript(_Edit):
    """Set the script, or the notes, of the episode."""

    kind: Literal["set_script"] = "set_script"
    text: str = Field(max_length=300_000)


class CorrectWord(_Edit):
    """Change how a word of a take is written; the sound stays as it is."""

    kind: Literal["correct_word"] = "correct_word"
    take: str
    word: Number
    text: str = Field(min_length=1, max_length=200)


class Correction(_Part):
    """How a word of a take is written; empty: it is part of the word before it."""

    take: str
    word: Number
    text: str = Field(max_length=200)


class CorrectMany(_Edit):
    """Change how several words are written, in one step."""

    kind: Literal["correct_many"] = "correct_many"
    words: tuple[Correction, ...] = Field(min_length=1, max_length=100_000)
    name: str = Field(default="", max_length=120)


class WordsOfTake(_Part):
    """Words of a take from ``first`` to ``last``, both included."""

    take: str
    first: Number
    last: Number


class NameSpeaker(_Edit):
    """Tell who says some words; an empty name: who their track is named after."""

    kind: Literal["name_speaker"] = "name_speaker"
    words: tuple[WordsOfTake, ...] = Field(min_length=1, max_length=10_000)
    name: SpeakerName


class RenameSpeaker(_Edit):
    """Give a speaker another name, wherever they speak; empty: who the tracks are named after."""

    kind: Literal["rename_speaker"] = "rename_speaker"
    old: str = Field(min_length=1, max_length=80)
    new: SpeakerName


class SectionStart(_Edit):
    """A boundary at frame ``at``; ``id`` is that of the section that is to begin there."""

    id: str | None = None
    at: Frame
    name: str = Field(default="", max_length=120)


class SetSections(_Edit):
    """Set all section boundaries at once. The first always starts at 0; a section that is told by
    its id, or that starts where one started before, keeps its gain; a new one takes the gain of
    the sound it came from."""

    kind: Literal["set_sections"] = "set_sections"
    sections: tuple[SectionStart, ...] = Field(min_length=1, max_length=500)


class SetLoudness(_Edit):
    """Set layout, target (LUFS) and ceiling (dBTP)."""

    kind: Literal["set_loudness"] = "set_loudness"
    layout: Layout
    target_lufs: float | None = Field(default=None, ge=-36.0, le=-8.0, allow_inf_nan=False)
    ceiling_dbtp: float = Field(default=-1.0, ge=-9.0, le=-0.1, allow_inf_nan=False)


class EvenOut(_Edit):
    """Set the gain of every section, in order, and of the whole, in dB (measured beforehand)."""

    kind: Literal["even_out"] = "even_out"
    section_gains_db: tuple[LevelGain, ...] = Field(max_length=500)
    gain_db: LevelGain


class SetTags(_Edit):
    """Set all tags and the artwork (SHA-256 of a stored picture, None for none)."""

    kind: Literal["set_tags"] = "set_tags"
    tags: Tags
    artwork: str | None = Field(default=None, pattern=r"^[0-9a-f]{64}$")


Edit = Annotated[
    Place
    | Record
    | AddMarker
    | ChangeMarker
    | RemoveMarker
    | Cut
    | CutMany
    | Tidy
    | SetSnagRules
    | KeepOnly
    | CutAlone
    | Silence
    | Cover
    | Uncover
    | AddAir
    | SetAir
    | Move
    | Paste
    | GainSpan
    | SetEnvelope
    | RideGain
    | SetChain
    | FadeSpan
    | Split
    | Join
    | MoveClip
    | TrimClip
    | SetClip
    | SetSplice
    | MoveEdges
    | Restore
    | RestoreAll
    | ChooseTake
    | ChooseRoomTone
    | FindRoomTone
    | SetScript
    | CorrectWord
    | CorrectMany
    | NameSpeaker
    | RenameSpeaker
    | SetSections
    | AddTrack
    | SetTrack
    | OrderTracks
    | RemoveTrack
    | SetLoudness
    | EvenOut
    | SetTags,
    Field(discriminator="kind"),
]


def apply(timeline: Timeline, edit: Edit) -> Timeline:
    """The timeline after ``edit``. Raises BadInput, with a sentence, where it does not fit, or
    where the document would hold more than it may."""
    return held(timeline, _applied(timeline, edit))


def replay(timeline: Timeline, edit: Edit) -> Timeline:
    """The same for an edit that was stored: values over the bounds of today are clamped and told,
    so that what was accepted once can always be opened."""
    return brought_within(_applied(timeline, edit))


def _applied(timeline: Timeline, edit: Edit) -> Timeline:
    match edit:
        case Place():
            return _place(timeline, edit)
        case Record():
            return _record(timeline, edit)
        case AddMarker() | ChangeMarker() | RemoveMarker():
            return _mark(timeline, edit)
        case Cut():
            return cut(timeline, edit.start, edit.frames, edit.crossfade_frames)
        case CutMany():
            return _cut_many(timeline, edit.spans, edit.crossfade_frames)
        case Tidy():
            return _tidy(timeline, edit)
        case SetSnagRules():
            own = tuple(dict.fromkeys(o for o in edit.own_fillers if o.text.strip()))
            return replace(timeline, snag_rules=SnagRules(edit.air_limit_s, own))
        case KeepOnly():
            start, end = within_episode(timeline, edit.start, edit.frames)
            if start == 0 and end == timeline.frames:
                raise BadInput("That is the whole episode. Nothing was changed.")
            if end < timeline.frames:
                timeline = cut(timeline, end, timeline.frames - end, edit.crossfade_frames)
            return cut(timeline, 0, start, edit.crossfade_frames) if start else timeline
        case CutAlone():
            start, end = within_episode(timeline, edit.start, edit.frames)
            return arranging.cut_alone(timeline, edit.track, start, end, edit.crossfade_frames)
        case Silence():
            start, end = within_episode(timeline, edit.start, edit.frames)
            return arranging.silence(timeline, edit.tracks, start, end)
        case Cover():
            if edit.tone is None:
                raise BadInput("No room tone is known for that. Choose one first.")
            start, end = within_episode(timeline, edit.start, edit.frames)
            fade = edit.crossfade_frames
            return arranging.cover(timeline, edit.track, start, end, edit.tone.span, fade)
        case Uncover():
            return arranging.uncover(timeline, edit.track, edit.at)
        case AddAir():
            at = min(edit.at, timeline.frames)
            tones = {track: tone.span for track, tone in (edit.tones or {}).items()}
            return arranging.add_air(timeline, at, edit.frames, tones, edit.crossfade_frames)
        case SetAir():
            return _set_air(timeline, edit)
        case Move():
            return move(timeline, edit.start, edit.frames, edit.to, edit.crossfade_frames)
        case Paste():
            return _paste(timeline, edit)
        case GainSpan() | SetEnvelope() | FadeSpan():
            return _gain(timeline, edit)
        case Split():
            return arranging.split(timeline, edit.at, edit.tracks)
        case Join():
            return arranging.join(timeline, edit.start, edit.start + edit.frames)
        case MoveClip():
            return arranging.move_clip(timeline, edit.track, edit.at, edit.to_track, edit.to)
        case TrimClip():
            return arranging.trim_clip(timeline, edit.track, edit.at, edit.start, edit.end)
        case SetClip():
            return arranging.fade_clip(
                timeline,
                edit.track,
                edit.at,
                edit.fade_in,
                edit.fade_out,
                edit.shape_in,
                edit.shape_out,
                edit.gain_db,
            )
        case SetSplice():
            return _set_splice(timeline, edit)
        case MoveEdges():
            return _move_edges(timeline, edit)
        case Restore():
            return restore(timeline, edit.cut)
        case RestoreAll():
            end = edit.start + edit.frames
            cuts = timeline.cuts
            held = [c.id for c in cuts[cuts.first_from(edit.start) : cuts.first_after(end)]]
            if not held:
                raise BadInput("Nothing was cut there. Nothing was changed.")
            for number in reversed(held):
                timeline = restore(timeline, number)
            return timeline
        case ChooseTake():
            return exchange(timeline, edit.cut, CROSSFADE_FRAMES)
        case ChooseRoomTone():
            return _choose_room_tone(timeline, edit)
        case FindRoomTone():
            found = {take: span for take, span in timeline.room_tones.items() if take != edit.take}
            return replace(timeline, room_tones=found)
        case SetScript():
            return replace(timeline, script=edit.text)
        case CorrectWord():
            key = f"{edit.take}:{edit.word}"
            return replace(timeline, corrections={**timeline.corrections, key: edit.text})
        case CorrectMany():
            new = {f"{one.take}:{one.word}": one.text for one in edit.words}
            return replace(timeline, corrections={**timeline.corrections, **new})
        case NameSpeaker():
            return _name_speaker(timeline, edit)
        case RenameSpeaker():
            changed = {
                take: renamed(voices, edit.old, edit.new)
                for take, voices in timeline.speakers.items()
            }
            return _with_speakers(timeline, changed)
        case SetSections():
            return _set_sections(timeline, edit)
        case AddTrack() | SetTrack() | OrderTracks() | RemoveTrack():
            return _tracks(timeline, edit)
        case SetLoudness():
            settings = Loudness(
                layout=edit.layout,
                target_lufs=edit.target_lufs,
                ceiling_dbtp=edit.ceiling_dbtp,
                gain_db=timeline.loudness.gain_db,
            )
            return replace(timeline, loudness=settings)
        case EvenOut():
            return _even_out(timeline, edit)
        case RideGain():
            for one in edit.tracks:
                timeline = _gain(timeline, SetEnvelope(track=one.track, points=one.points))
            return timeline
        case SetChain():
            track = timeline.track(edit.track)
            return arranging.with_track(timeline, replace(track, chain=edit.chain))
        case SetTags():
            return replace(timeline, tags=edit.tags, artwork=edit.artwork)


def _place(timeline: Timeline, edit: Place) -> Timeline:
    at = timeline.frames if edit.at is None else edit.at
    if edit.insert and at < timeline.frames:
        timeline = open_up(timeline, at, edit.take_frames)
    clip = Clip(edit.take, 0, edit.take_frames, at, edit.gain_db)
    return _put(_knowing(timeline, edit.take, edit.take_frames), clip, edit)


def _knowing(timeline: Timeline, take: str, frames: int) -> Timeline:
    return replace(timeline, lengths={**timeline.lengths, take: frames})


def _put(timeline: Timeline, clip: Clip, on: "Place | RecordedTake") -> Timeline:
    """The clip on the track of that name, which is made if it is not there yet."""
    for index, track in enumerate(timeline.tracks):
        if track.name == on.track_name:
            place = track.clips.first_sounding(clip.at)
            if place < len(track.clips) and track.clips[place].at < clip.end:
                raise BadInput(
                    f"Something is already there on “{track.name}”. Nothing was changed."
                )
            clips = joined(track.clips[:place], [clip], track.clips[place:])
            tracks = list(timeline.tracks)
            tracks[index] = replace(track, clips=clips)
            return replace(timeline, tracks=tuple(tracks))
    kind: TrackKind = on.track_kind if isinstance(on, Place) else "voice"
    return _with_new_track(timeline, on.track_name, kind, Clips([clip]))


def _with_new_track(
    timeline: Timeline, name: str, kind: TrackKind, clips: Clips = Clips()
) -> Timeline:
    if len(timeline.tracks) >= MOST_TRACKS:
        raise BadInput(f"An episode holds {MOST_TRACKS} tracks at most. Nothing was changed.")
    track = Track(f"t{timeline.next_id}", name, kind, clips)
    return replace(timeline, tracks=(*timeline.tracks, track), next_id=timeline.next_id + 1)


def _record(timeline: Timeline, edit: Record) -> Timeline:
    at = timeline.frames if edit.at is None else min(edit.at, timeline.frames)
    frames = edit.frames - edit.skip
    if frames <= 0:
        raise BadInput("The recording is shorter than the delay of what was played along.")
    number = timeline.next_id
    if edit.replacing:
        timeline = cut(timeline, at, edit.replacing, CROSSFADE_FRAMES)
    if not edit.alongside and at < timeline.frames:
        timeline = open_up(timeline, at, frames)
    for take in edit.takes:
        clip = Clip(take.take, edit.skip, frames, at, take.gain_db)
        timeline = _put(_knowing(timeline, take.take, edit.frames), clip, take)
    if edit.replacing and not edit.alongside:
        place = timeline.cuts.index_of(number)
        assert place is not None
        mark = timeline.cuts[place]._replace(instead=frames)
        timeline = replace(timeline, cuts=timeline.cuts.with_one(place, mark))
    markers = list(timeline.markers)
    for number, new in enumerate(edit.markers, timeline.next_id):
        markers.append(Marker(f"m{number}", at + max(0, new.at - edit.skip), new.kind, new.name))
    return replace(
        timeline,
        markers=tuple(sorted(markers, key=lambda m: m.at)),
        next_id=timeline.next_id + len(edit.markers),
    )


def _mark(timeline: Timeline, edit: AddMarker | ChangeMarker | RemoveMarker) -> Timeline:
    if isinstance(edit, AddMarker):
        at = min(edit.at, timeline.frames)
        new = Marker(f"m{timeline.next_id}", at, edit.marks, edit.name)
        markers = [*timeline.markers, new]
        timeline = replace(timeline, next_id=timeline.next_id + 1)
    else:
        old = next((m for m in timeline.markers if m.id == edit.marker), None)
        if old is None:
            raise BadInput("That marker is no longer in the episode. Nothing was changed.")
        markers = [m for m in timeline.markers if m is not old]
        if isinstance(edit, ChangeMarker):
            changed = Marker(
                old.id,
                old.at if edit.at is None else min(edit.at, timeline.frames),
                edit.marks or old.kind,
                old.name if edit.name is None else edit.name,
            )
            markers.append(changed)
    return replace(timeline, markers=tuple(sorted(markers, key=lambda m: m.at)))


def _cut_many(
    timeline: Timeline, several: tuple[SpanToCut, ...], crossfade_frames: int
) -> Timeline:
    if any(span.start >= timeline.frames for span in several):
        raise BadInput("There is no sound there to cut. Nothing was changed.")
    spans = merged((span.start, span.start + span.frames) for span in several)
    for start, end in reversed(spans):
        timeline = cut(timeline, start, end - start, crossfade_frames)
    return timeline


def _tidy(timeline: Timeline, edit: Tidy) -> Timeline:
    for level in edit.levels:
        start, end = within_episode(timeline, level.start, level.frames)
        track = timeline.track(level.track)
        points = envelope.changed(track.envelope, start, end, level.by_db, _RAMP_FRAMES)
        timeline = arranging.with_track(timeline, replace(track, envelope=points))
    # One level that is out of reach must not keep all else from being settled.
    timeline = clamped(timeline)
    for one in edit.covers:
        if one.tone is None:
            raise BadInput("No room tone is known for that. Choose one first.")
        start, end = within_episode(timeline, one.start, one.frames)
        tone = one.tone.span
        timeline = arranging.cover(timeline, one.track, start, end, tone, CROSSFADE_FRAMES)
    # From the end to the start, so that what comes before stays where it was said to be.
    timeline = _cut_many(timeline, edit.cuts, CROSSFADE_FRAMES)
    for number in edit.restores:
        timeline = restore(timeline, number)
    gone = set(edit.unkeep)
    stay = (*(one for one in timeline.kept if one not in gone), *edit.keep)
    return replace(timeline, kept=tuple(dict.fromkeys(stay)))


def _set_air(timeline: Timeline, edit: SetAir) -> Timeline:
    start, end = within_episode(timeline, edit.start, edit.frames)
    frames = end - start
    if edit.to_frames == frames:
        raise BadInput("It is that long already. Nothing was changed.")
    half = edit.to_frames // 2
    if edit.to_frames < frames:
        return cut(timeline, start + half, frames - edit.to_frames, edit.crossfade_frames)
    tones = {track: tone.span for track, tone in (edit.tones or {}).items()}
    more = edit.to_frames - frames
    middle = start + frames // 2
    return arranging.add_air(timeline, middle, more, tones, edit.crossfade_frames)


def _paste(timeline: Timeline, edit: Paste) -> Timeline:
    if not edit.copied:
        raise BadInput("There is nothing to put in. Nothing was changed.")
    piece = Piece(
        edit.frames,
        edit.frames,
        tuple(part.track for part in edit.copied),
        tuple(Clips(part.clips) for part in edit.copied),
        envelopes=tuple(part.envelope for part in edit.copied),
    )
    here = {track.id for track in timeline.tracks}
    if not any(len(part.clips) and part.track in here for part in edit.copied):
        raise BadInput("The tracks it was copied from are gone. Nothing was changed.")
    return put_in(timeline, edit.at, piece, edit.crossfade_frames)


def _gain(timeline: Timeline, edit: GainSpan | SetEnvelope | FadeSpan) -> Timeline:
    if isinstance(edit, SetEnvelope):
        points = sorted((Point(p.at, p.db, p.shape) for p in edit.points), key=lambda p: p.at)
        track = timeline.track(edit.track)
        return arranging.with_track(timeline, replace(track, envelope=tuple(points)))
    start, end = within_episode(timeline, edit.start, edit.frames)
    chosen = edit.tracks or tuple(t.id for t in timeline.tracks if len(t.clips.between(start, end)))
    if not chosen:
        raise BadInput("There is no sound there. Nothing was changed.")
    for track_id in chosen:
        track = timeline.track(track_id)
        if isinstance(edit, FadeSpan):
            timeline = arranging.fade_span(timeline, track_id, start, end, edit.inwards, edit.shape)
        else:
            points_now = envelope.changed(track.envelope, start, end, edit.by_db, edit.ramp_frames)
            timeline = arranging.with_track(timeline, replace(track, envelope=points_now))
    return timeline


def _set_splice(timeline: Timeline, edit: SetSplice) -> Timeline:
    tracks = []
    done = 0
    for track in timeline.tracks:
        index = track.clips.first_from(edit.at)
        if 0 < index < len(track.clips):
            left, right = track.clips[index - 1], track.clips[index]
            if right.at == edit.at == left.end and not left.continues_into(right):
                fade = edit.crossfade_frames
                right = right._replace(
                    fade_in=right.fade_in if fade is None else fade,
                    shape_in=edit.shape or right.shape_in,
                )
                track = replace(track, clips=track.clips.with_one(index, right))
                done += 1
        tracks.append(track)
    if not done:
        raise BadInput("There is no splice there any more. Nothing was changed.")
    return replace(timeline, tracks=tuple(tracks))


def _move_edges(timeline: Timeline, edit: MoveEdges) -> Timeline:
    place = timeline.cuts.index_of(edit.cut)
    mark = None if place is None else timeline.cuts[place]
    fade = CROSSFADE_FRAMES
    shape: Shape = "round"
    if mark is not None:
        for track in timeline.tracks:
            index = track.clips.first_from(mark.at)
            if index < len(track.clips) and track.clips[index].at == mark.at:
                right = track.clips[index]
                fade, shape = right.fade_in or fade, right.shape_in
    return move_edges(timeline, edit.cut, edit.left, edit.right, fade, shape)


def _tracks(timeline: Timeline, edit: AddTrack | SetTrack | OrderTracks | RemoveTrack) -> Timeline:
    names = {t.name: t.id for t in timeline.tracks}
    match edit:
        case AddTrack():
            if edit.name in names:
                raise BadInput(f"There is a track “{edit.name}” already. Nothing was changed.")
            return _with_new_track(timeline, edit.name, edit.track_kind)
        case SetTrack():
            track = timeline.track(edit.track)
            if edit.name is not None and names.get(edit.name, track.id) != track.id:
                raise BadInput(f"There is a track “{edit.name}” already. Nothing was changed.")
            changed = replace(
                track,
                name=track.name if edit.name is None else edit.name,
                kind=edit.track_kind or track.kind,
                colour=edit.colour or track.colour,
                gain_db=track.gain_db if edit.gain_db is None else edit.gain_db,
                muted=track.muted if edit.muted is None else edit.muted,
                soloed=track.soloed if edit.soloed is None else edit.soloed,
            )
            return arranging.with_track(timeline, changed)
        case OrderTracks():
            by_id = {t.id: t for t in timeline.tracks}
            if sorted(edit.tracks) != sorted(by_id):
                raise BadInput("The tracks have changed meanwhile. Nothing was changed.")
            return replace(timeline, tracks=tuple(by_id[number] for number in edit.tracks))
        case RemoveTrack():
            gone = timeline.track(edit.track)
            kept = tuple(t for t in timeline.tracks if t is not gone)
            return arranging.settled(replace(timeline, tracks=kept))


def _choose_room_tone(timeline: Timeline, edit: ChooseRoomTone) -> Timeline:
    if edit.frames < FRAME_RATE // 2:
        raise BadInput("Room tone needs half a second or more. Nothing was changed.")
    end = edit.start + edit.frames
    chosen = {
        clip.take: Span(clip.take, clip.start + edit.start - clip.at, edit.frames)
        for track in timeline.tracks
        if track.kind == "voice"
        for clip in track.clips
        if clip.at <= edit.start and end <= clip.end
    }
    if not chosen:
        raise BadInput("No one recording sounds throughout the selection. Nothing was changed.")
    return replace(timeline, room_tones={**timeline.room_tones, **chosen})


def _name_speaker(timeline: Timeline, edit: NameSpeaker) -> Timeline:
    speakers = dict(timeline.speakers)
    for words in edit.words:
        if words.last < words.first:
            raise BadInput("Those words end before they begin. Nothing was changed.")
        if words.take not in timeline.lengths:
            raise BadInput("Those words are not in this episode. Nothing was changed.")
        before = speakers.get(words.take, ())
        speakers[words.take] = with_speaker(before, words.first, words.last, edit.name)
    return _with_speakers(timeline, speakers)


def _with_speakers(timeline: Timeline, speakers: dict[str, Voices]) -> Timeline:
    return replace(timeline, speakers={take: of for take, of in speakers.items() if of})


def _set_sections(timeline: Timeline, edit: SetSections) -> Timeline:
    starts = sorted(edit.sections, key=lambda s: s.at)
    if starts[0].at != 0:
        raise BadInput("The first section has to start at 0:00.0.")
    if len({s.at for s in starts}) != len(starts):
        raise BadInput("Two sections cannot start at the same moment.")
    if starts[-1].at and starts[-1].at >= timeline.frames:
        raise BadInput("A section cannot start after the end of the episode.")
    at_same = {s.at: s for s in timeline.sections}
    by_id = {s.id: s for s in timeline.sections}
    told = {s.id for s in starts if s.id}
    out: list[Section] = []
    next_id = timeline.next_id
    for number, new in enumerate(starts):
        name = new.name or f"Section {number + 1}"
        old = by_id.get(new.id or "")
        if old is None and (same := at_same.get(new.at)) and same.id not in told:
            old = same
        if old and all(s.id != old.id for s in out):
            out.append(replace(old, at=new.at, name=name))
            continue
        source = [s for s in timeline.sections if s.at <= new.at][-1]
        out.append(Section(f"s{next_id}", new.at, name, source.gain_db))
        next_id += 1
    return replace(timeline, sections=tuple(out), next_id=next_id)


def _even_out(timeline: Timeline, edit: EvenOut) -> Timeline:
    if len(edit.section_gains_db) != len(timeline.sections):
        raise BadInput("The sections have changed since they were measured. Measure again.")
    sections = tuple(
        replace(section, gain_db=gain)
        for section, gain in zip(timeline.sections, edit.section_gains_db, strict=True)
    )
    settings = replace(timeline.loudness, gain_db=edit.gain_db)
    return replace(timeline, sections=sections, loudness=settings)
