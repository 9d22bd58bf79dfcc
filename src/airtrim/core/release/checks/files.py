"""Files beside the document."""

from airtrim.core.release.checks.base import Facts, Line, Remedy, check

_MAKE = Remedy("Go to Files", place="files")


@check(40)
def files(facts: Facts) -> Line:
    """Whether the newest file is of the document as it is now."""
    title, behind = "Files", facts.behind
    if behind is None:
        return Line("files", title, "look", "None was made yet.", _MAKE)
    if behind:
        edits = "1 edit" if behind == 1 else f"{behind} edits"
        return Line("files", title, "stop", f"The newest is {edits} behind the episode.", _MAKE)
    return Line("files", title, "good", "The newest is of the episode as it is now.")
