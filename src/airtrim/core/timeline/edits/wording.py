"""Words that the names of edits in the history are put together from."""

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.model import Timeline


def seconds(frames: int) -> str:
    """A length: “1.5 s”, or “20 ms” where it is short."""
    return f"{frames / FRAME_RATE:.1f} s" if frames >= 2400 else f"{frames / 48:.0f} ms"


def decibels(db: float) -> str:
    """A gain with its sign: “−3.0 dB”."""
    return f"{db:+.1f} dB".replace("-", "−")


def count(number: int, what: str) -> str:
    """“1 word”, “3 words”."""
    return f"{number} {what}{'s' * (number != 1)}"


def track_name(timeline: Timeline, track_id: str) -> str:
    """The name of a track, or “a track” where it is gone."""
    return next((t.name for t in timeline.tracks if t.id == track_id), "a track")


def on_tracks(timeline: Timeline, tracks: tuple[str, ...]) -> str:
    """“ on Host and Guest”; nothing where all tracks are meant."""
    names = " and ".join(track_name(timeline, track) for track in tracks)
    return f" on {names}" if names else ""
