"""How far an episode is along the order of the work, and what would be the next step."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from airtrim.core.timeline.edits.wording import count
from airtrim.core.timeline.tags import Tags, lacking
from airtrim.errors import Place

StepName = Literal["recorded", "words", "snags", "even", "labelled", "file", "handed_over"]


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of an episode. ``snags``: how many are undecided, ``lufs``: how loud it is and
    ``even`` whether that is its target, in every part; both None before it is measured. ``behind``:
    how many edits its newest file is behind, None without one. ``handed_over``: where that is, and
    ``public`` whether everybody can hear it there; ``overdue``: it was not published at its
    scheduled time."""

    frames: int
    tags: Tags
    writing: bool = False
    transcribed: bool = True
    snags: int = 0
    lufs: float | None = None
    even: bool | None = None
    behind: int | None = None
    handed_over: str = ""
    public: bool = False
    overdue: bool = False


@dataclass(frozen=True, slots=True)
class Step:
    """A step of the work: how it stands, whether it is done, the place where it is done, and what a
    button says that leads there."""

    name: StepName
    says: str
    done: bool
    place: Place
    press: str


def steps(known: Known) -> tuple[Step, ...]:
    """Every step, in the order of the work; of an empty episode only the first."""
    recorded = known.frames > 0
    first = Step("recorded", "Recorded" if recorded else "Nothing recorded", recorded, "record",
                 "Record, or add a recording")  # fmt: skip
    if not recorded:
        return (first,)
    return (
        first,
        _words(known),
        Step(
            "snags",
            f"{count(known.snags, 'snag')} left" if known.snags else "No snags left",
            known.transcribed and not known.snags,
            "snags",
            f"Go through {count(known.snags, 'snag')}",
        ),
        _even(known),
        _labelled(known.tags),
        _file(known),
        Step(
            "handed_over",
            _where(known),
            bool(known.handed_over) and known.behind == 0 and not known.overdue,
            "over",
            "Hand it over",
        ),
    )


def next_step(found: Sequence[Step]) -> Step | None:
    """The first step that is open after the last that a host finished; None where all is done.

    What was gone past is left alone: whoever made a file with snags in it meant to. Words come by
    themselves, and labels may come from a setup, so neither says how far somebody is.

    >>> next_step(steps(Known(frames=0, tags=Tags()))).press
    'Record, or add a recording'
    >>> next_step(steps(Known(frames=48_000, tags=Tags(), snags=3, even=True))).name
    'labelled'
    """
    told = [place for place, step in enumerate(found) if step.done and step.name in _TELLING]
    later = found[told[-1] + 1 :] if told else found
    return next((step for step in later if not step.done), None)


def in_a_word(known: Known) -> str:
    """How far an episode is, as a shelf tells it.

    >>> in_a_word(Known(frames=48_000, tags=Tags(), behind=0))
    'File made'
    """
    if not known.frames:
        return "Nothing recorded yet"
    if known.overdue:
        return _where(known)
    if known.behind == 0:
        return _where(known) if known.handed_over else "File made"
    if known.behind:
        return "Changed since its file was made"
    return "Being edited" if known.transcribed else "No words yet"


_TELLING = ("recorded", "snags", "even", "file", "handed_over")
_CALLED = {"title": "title", "episode": "number", "show": "show", "artist": "who speaks"}


def _words(known: Known) -> Step:
    if known.transcribed:
        return Step("words", "Words written down", True, "edit", "Look at the words")
    if known.writing:
        return Step("words", "Words being written down", False, "edit", "See the words come")
    return Step("words", "No words yet", False, "edit", "Write down the words")


def _even(known: Known) -> Step:
    if known.even is None:
        return Step("even", "Loudness not measured", False, "loudness", "Even out the loudness")
    lufs = "" if known.lufs is None else f"{known.lufs:.1f} LUFS, ".replace("-", "−")
    says = f"{lufs}{'even' if known.even else 'not even'}"
    return Step("even", says, known.even, "loudness", "Even out the loudness")


def _labelled(tags: Tags) -> Step:
    not_told = lacking(tags)
    missing = [says for field, says in _CALLED.items() if field in not_told]
    says = f"Label lacks {', '.join(missing)}" if missing else "Labelled"
    return Step("labelled", says, not missing, "label", "Complete the label")


def _file(known: Known) -> Step:
    if known.behind is None:
        return Step("file", "No file yet", False, "files", "Make the file")
    if known.behind:
        says = f"File {count(known.behind, 'edit')} behind"
        return Step("file", says, False, "files", "Make the file anew")
    return Step("file", "File made", True, "files", "Make the file")


def _where(known: Known) -> str:
    if not known.handed_over:
        return "Not handed over"
    if known.overdue:
        return f"Not published at {known.handed_over}"
    return f"{'Public' if known.public else 'Draft'} at {known.handed_over}"
