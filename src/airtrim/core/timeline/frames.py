"""Frame maps: where frames of an earlier document are in the current one.

A browser refers to frames of the document that the host saw. If other edits were made since, the
frames are mapped through them, or the edit is refused. It never lands on other audio.
"""

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import replace
from typing import Any, TypeVar

from airtrim.core.timeline.model import Marker, Timeline

_PROBE = "probe-"
_Item = TypeVar("_Item", bound=Hashable)


class Unmappable(Exception):
    """The audio or the value that an edit refers to has changed since the host saw it."""


class FrameMap:
    """Map frames of the document ``seen`` to the document ``now``.

    ``replay`` makes the edits between the two once more. The map is found by sending markers
    through them: every edit moves markers with the audio, so no edit needs a map of its own.

    Parameters
    ----------
    seen, now
        The document that the host saw, and the current one.
    replay
        Applies the edits between them to a document like ``seen``.
    own
        The last document that the same client made itself. Values that the host changed twice in
        quick succession are not a conflict. By default ``seen``.
    """

    def __init__(
        self,
        seen: Timeline,
        now: Timeline,
        replay: Callable[[Timeline], Timeline],
        own: Timeline | None = None,
    ) -> None:
        self.seen, self.now, self.own = seen, now, own or seen
        self._replay = replay

    def points(self, frames: Sequence[int]) -> list[int]:
        """Map positions between two frames, such as that of a marker. Raises Unmappable where the
        audio on both sides is gone."""
        # After a cut that ends or begins at the position, only one side is left.
        found = self._probe([f for frame in frames for f in (frame, frame - 1)])
        return [
            self._either(after, before)
            for after, before in zip(found[::2], found[1::2], strict=True)
        ]

    def point(self, frame: int) -> int:
        """Map one position."""
        return self.points([frame])[0]

    def spans(self, spans: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
        """Map spans ``(start, frames)``. Raises Unmappable where a span does not contain exactly
        the audio that it contained before."""
        reach = self.seen.frames
        ends = [max(start, min(start + frames, reach) - 1) for start, frames in spans]
        found = self._probe([f for s, end in zip(spans, ends, strict=True) for f in (s[0], end)])
        out = []
        for (start, frames), first, last in zip(spans, found[::2], found[1::2], strict=True):
            length = min(frames, max(0, reach - start))
            if first is None or last is None or last + 1 - first != length or length <= 0:
                raise Unmappable
            if _content(self.seen, start, length) != _content(self.now, first, length):
                raise Unmappable
            out.append((first, frames))
        return out

    def span(self, start: int, frames: int) -> tuple[int, int]:
        """Map one span."""
        return self.spans([(start, frames)])[0]

    def mark(self, start: int, frames: int) -> tuple[int, int] | None:
        """Map a span, or with ``frames`` 0 a point. None where its audio has changed."""
        try:
            return self.span(start, frames) if frames else (self.point(start), 0)
        except Unmappable:
            return None

    def clip(self, track: str, at: int) -> int:
        """Map the start of a clip. Raises Unmappable where no such clip starts there now."""
        there = self.point(at)
        before, after = (_clip_at(t, track, f) for t, f in ((self.seen, at), (self.now, there)))
        if before is None or before != after:
            raise Unmappable
        return there

    def value(self, own: object, now: object, wanted: object) -> None:
        """Raise Unmappable where somebody else changed a value since the client set it itself."""
        if now not in (own, wanted):
            raise Unmappable

    def values(
        self, names: Iterable[str], wanted: object, part: Callable[[Timeline], object]
    ) -> dict[str, Any]:
        """Values of a settings object for the current document.

        A value that the host left as it was keeps its current value. Raises Unmappable where a
        value that the host changed was changed by somebody else as well.

        Parameters
        ----------
        names
            Attributes to compare.
        wanted
            The settings as the host wants them.
        part
            Returns the settings of a document.
        """
        seen, own, now = part(self.seen), part(self.own), part(self.now)
        values: dict[str, Any] = {}
        for name in names:
            value = getattr(wanted, name)
            if value == getattr(seen, name):
                value = getattr(now, name)
            else:
                self.value(getattr(own, name), getattr(now, name), value)
            values[name] = value
        return values

    @staticmethod
    def merged(seen: Iterable[_Item], wanted: Iterable[_Item], now: Iterable[_Item]) -> list[_Item]:
        """Make the change from the list ``seen`` to the list ``wanted`` on the list ``now``.

        Raises Unmappable where an item that was removed or changed is not in ``now``.

        >>> FrameMap.merged("abc", "abd", "xabc")
        ['x', 'a', 'b', 'd']
        """
        before, after, current = list(seen), list(wanted), list(now)
        gone, there = set(before) - set(after), set(current)
        if gone - there:
            raise Unmappable
        kept = [item for item in current if item not in gone]
        new = [item for item in after if item not in set(before) and item not in set(kept)]
        return kept + new

    def _probe(self, frames: Sequence[int]) -> list[int | None]:
        """Where each frame is now; None where its audio was removed."""
        probes = [Marker(f"{_PROBE}{i}", f, "note", "") for i, f in enumerate(frames) if f >= 0]
        markers = sorted((*self.seen.markers, *probes), key=lambda marker: marker.at)
        after = self._replay(replace(self.seen, markers=tuple(markers)))
        found = {marker.id: marker.at for marker in after.markers}
        return [found.get(f"{_PROBE}{i}") for i in range(len(frames))]

    @staticmethod
    def _either(after: int | None, before: int | None) -> int:
        if after is not None:
            return after
        if before is not None:
            return before + 1
        raise Unmappable


def _content(timeline: Timeline, start: int, frames: int) -> list[tuple[str, list[object]]]:
    """Which audio is in a span: for each track, pieces of takes by their place in the span.

    Placed sounds follow the speech by themselves and do not count.
    """
    end = start + frames
    content: list[tuple[str, list[object]]] = []
    for track in timeline.tracks:
        pieces: list[list[object]] = []
        for clip in track.clips.between(start, end) if not track.held else ():
            low, high = max(start, clip.at), min(end, clip.end)
            take_at = clip.start + low - clip.at
            last = pieces[-1] if pieces else None
            # A split without a gap leaves the audio as it is.
            if last and last[0] == clip.take and last[2] == low - start and last[3] == take_at:
                last[2], last[3] = high - start, take_at + high - low
            else:
                pieces.append([clip.take, low - start, high - start, take_at + high - low])
        if pieces:
            content.append((track.id, [tuple(piece) for piece in pieces]))
    return sorted(content)


def _clip_at(timeline: Timeline, track_id: str, at: int) -> tuple[str, int, int] | None:
    for track in timeline.tracks:
        if track.id == track_id:
            for clip in track.clips.between(at, at + 1):
                if clip.at == at:
                    return clip.take, clip.start, clip.frames
    return None
