"""What lies beside a document, for an edit that has to be completed from it."""

from typing import Protocol

from airtrim.core.timeline.model import Span, Timeline
from airtrim.core.timeline.snap import Read
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.words import TakeWords


class Sources(Protocol):
    """Of one episode, on one state of its document. The store has them for the screen, and the
    command line for files."""

    @property
    def timeline(self) -> Timeline:
        """The document that the edit is made on."""

    def timeline_at(self, revision: int) -> Timeline:
        """The document at another revision."""

    def take_frames(self, take: str) -> int:
        """How long a recording of the episode is; 0 where it has no such recording."""

    def words(self, timeline: Timeline) -> TakeWords:
        """The words of all recordings in use."""

    def numbered(self, take: str) -> int:
        """How many words of a recording, from its beginning, have numbers that they keep: fewer
        than are shown while words are still on their way."""

    def talk(self, timeline: Timeline) -> dict[str, Talk]:
        """Where somebody speaks in all recordings in use, as far as that is known."""

    def room_tone(self, take: str) -> Span | None:
        """What was found as the room tone of a recording."""

    def sound(self, timeline: Timeline) -> Read:
        """All tracks together as they were recorded."""

    def loudness(self, timeline: Timeline, start: int, end: int) -> float | None:
        """How loud a document is between two frames, in LUFS, before it is levelled; None where
        nothing can be measured."""
