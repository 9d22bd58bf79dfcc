"""The names of edits in the history."""

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline import edits
from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.model import Timeline


def describe(timeline: Timeline, edit: Edit) -> str:
    """The name of ``edit`` in the history, told of the timeline it is applied to."""
    match edit:
        case edits.Place():
            return f"Added a recording to {edit.track_name}"
        case edits.Record():
            where = "Recorded over a span" if edit.replacing else "Recorded"
            tracks = " and ".join(take.track_name for take in edit.takes)
            return f"{where}: {_seconds(edit.frames - edit.skip)} on {tracks}"
        case edits.AddMarker():
            return f"Added a marker “{edit.name}”" if edit.name else "Added a marker"
        case edits.ChangeMarker():
            return "Moved a marker" if edit.at is not None else "Changed a marker"
        case edits.Cut():
            return f"Cut {_seconds(edit.frames)}"
        case edits.CutMany():
            return edit.name or f"Cut {_count(len(edit.spans), 'span')}"
        case edits.Tidy():
            return edit.name or "Settled snags"
        case edits.KeepOnly():
            return f"Kept only {_seconds(edit.frames)}"
        case edits.CutAlone():
            return f"Cut {_seconds(edit.frames)} of {_track(timeline, edit.track)} alone"
        case edits.Silence():
            return f"Silenced {_seconds(edit.frames)}{_on(timeline, edit.tracks)}"
        case edits.Cover():
            return f"Covered {_seconds(edit.frames)} on {_track(timeline, edit.track)}"
        case edits.AddAir():
            return f"Added {_seconds(edit.frames)} of air"
        case edits.SetAir():
            return f"Set air to {_seconds(edit.to_frames)}"
        case edits.Move():
            return f"Moved {_seconds(edit.frames)}"
        case edits.Paste():
            return f"Put in {_seconds(edit.frames)}"
        case edits.GainSpan():
            gain = f"{edit.by_db:+.1f} dB".replace("-", "−")
            return f"{gain} for {_seconds(edit.frames)}{_on(timeline, edit.tracks)}"
        case edits.SetEnvelope():
            return f"Changed the gain of {_track(timeline, edit.track)}"
        case edits.RideGain():
            return edit.name or "Rode the gain"
        case edits.SetChain():
            return edit.name or f"Changed the sound of {_track(timeline, edit.track)}"
        case edits.FadeSpan():
            way = "in" if edit.inwards else "out"
            return f"Faded {way} over {_seconds(edit.frames)}{_on(timeline, edit.tracks)}"
        case edits.MoveClip():
            return f"Moved a clip of {_track(timeline, edit.track)}"
        case edits.TrimClip():
            return f"Trimmed a clip of {_track(timeline, edit.track)}"
        case edits.SetClip():
            return f"Changed a clip of {_track(timeline, edit.track)}"
        case edits.CorrectWord():
            return f"Corrected a word to “{edit.text}”"
        case edits.CorrectMany():
            return edit.name or f"Corrected {_count(len(edit.words), 'word')}"
        case edits.NameSpeaker():
            return f"{edit.name or 'The track’s own voice'} speaks here"
        case edits.RenameSpeaker():
            return f"{edit.old} is {edit.new or 'the track’s own voice'}"
        case edits.SetSections():
            more = len(edit.sections) - len(timeline.sections)
            if more > 0:
                return "Added a section" if more == 1 else f"Added {more} sections"
            return "Removed a section" if more else "Set sections"
        case edits.AddTrack():
            return f"Added track {edit.name}"
        case edits.SetTrack():
            return _track_change(timeline, edit)
        case edits.RemoveTrack():
            return f"Deleted track {_track(timeline, edit.track)}"
        case edits.EvenOut():
            return f"Evened out {_count(len(edit.section_gains_db), 'section')}"
        case _:
            return _PLAIN[edit.kind]


_PLAIN = {
    "remove_marker": "Removed a marker",
    "uncover": "Brought back what was covered",
    "split": "Split clips",
    "join": "Joined clips",
    "set_splice": "Changed a crossfade",
    "move_edges": "Moved the edge of a cut",
    "restore": "Put a cut back",
    "restore_all": "Put cuts back",
    "choose_take": "Chose the other take",
    "choose_room_tone": "Chose room tone",
    "find_room_tone": "Left room tone to be found",
    "set_snag_rules": "Set what counts as a snag",
    "set_script": "Changed the script",
    "order_tracks": "Changed the order of tracks",
    "set_loudness": "Set loudness",
    "set_tags": "Set tags",
}


def _seconds(frames: int) -> str:
    return f"{frames / FRAME_RATE:.1f} s" if frames >= 2400 else f"{frames / 48:.0f} ms"


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'s' * (number != 1)}"


def _track(timeline: Timeline, track_id: str) -> str:
    return next((t.name for t in timeline.tracks if t.id == track_id), "a track")


def _on(timeline: Timeline, tracks: tuple[str, ...]) -> str:
    return " on " + " and ".join(_track(timeline, t) for t in tracks) if tracks else ""


def _track_change(timeline: Timeline, edit: edits.SetTrack) -> str:
    name = _track(timeline, edit.track)
    if edit.name is not None:
        return f"Renamed {name} to {edit.name}"
    if edit.muted is not None:
        return f"Muted {name}" if edit.muted else f"Unmuted {name}"
    if edit.soloed is not None:
        return f"Soloed {name}" if edit.soloed else f"Ended the solo of {name}"
    if edit.gain_db is not None:
        return f"Set {name} to {edit.gain_db:+.1f} dB".replace("-", "−")
    return f"Changed track {name}"
