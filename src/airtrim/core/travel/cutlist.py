"""The cut list as OpenTimelineIO: which stretch of which recording sounds where, on each track."""

from collections.abc import Mapping

import opentimelineio as otio

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.tone import is_tone

Time = otio.opentime.RationalTime
Range = otio.opentime.TimeRange


def cut_list(timeline: Timeline, title: str, files: Mapping[str, str]) -> str:
    """The document as an ``.otio`` file, in frames at 48 kHz. ``files`` names each recording's
    file. Room tone that was made up has no file: it is a gap, named so. A clip's gain and fades
    stand in its metadata under ``airtrim``; parts and markers are markers of the whole."""
    made = otio.schema.Timeline(name=title, global_start_time=_time(0))
    for track in timeline.tracks:
        made.tracks.append(_track(track, timeline, files))
    for section, end in timeline.parts:
        made.tracks.markers.append(_marker(section.name, section.at, end - section.at, "part"))
    for marker in timeline.markers:
        made.tracks.markers.append(_marker(marker.name, marker.at, 0, marker.kind))
    text: str = made.to_json_string(indent=1)
    return text


def _track(track: Track, timeline: Timeline, files: Mapping[str, str]) -> otio.schema.Track:
    made = otio.schema.Track(
        name=track.name,
        kind=otio.schema.TrackKind.Audio,
        metadata={"airtrim": {"kind": track.kind, "gain_db": track.gain_db}},
    )
    made.enabled = not track.muted
    at = 0
    for clip in track.clips:
        if clip.at > at:
            made.append(_gap("", clip.at - at))
        made.append(_clip(clip, timeline, files))
        at = clip.end
    return made


def _clip(clip: Clip, timeline: Timeline, files: Mapping[str, str]) -> otio.core.Item:
    if is_tone(clip.take):
        return _gap("Room tone", clip.frames)
    whole = Range(_time(0), _time(timeline.lengths.get(clip.take, clip.start + clip.frames)))
    name = files.get(clip.take, clip.take)
    return otio.schema.Clip(
        name=name,
        media_reference=otio.schema.ExternalReference(target_url=name, available_range=whole),
        source_range=Range(_time(clip.start), _time(clip.frames)),
        metadata={
            "airtrim": {
                "gain_db": clip.gain_db,
                "fade_in_frames": clip.fade_in,
                "fade_out_frames": clip.fade_out,
            }
        },
    )


def _gap(name: str, frames: int) -> otio.schema.Gap:
    return otio.schema.Gap(name=name, source_range=Range(_time(0), _time(frames)))


def _marker(name: str, at: int, frames: int, kind: str) -> otio.schema.Marker:
    return otio.schema.Marker(
        name=name,
        marked_range=Range(_time(at), _time(frames)),
        metadata={"airtrim": {"kind": kind}},
    )


def _time(frames: int) -> otio.opentime.RationalTime:
    return Time(frames, FRAME_RATE)
