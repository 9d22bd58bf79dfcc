"""What the file says of itself."""

from airtrim.core.media import FRAME_RATE
from airtrim.core.release.artwork import check_artwork
from airtrim.core.release.chapters import chapters_of, too_short
from airtrim.core.release.checks.base import Facts, Line, Remedy, check
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput

_TO_LABEL = Remedy("Go to Label", place="label")
_NAMES = {"show": "show", "artist": "who speaks", "description": "description"}


@check(30)
def title(facts: Facts) -> Line:
    """A title, as apps show it."""
    name, told = "Title", facts.timeline.tags.title
    if not told:
        use = _tagged(facts, "Use it", title=facts.title)
        said = f"None is told; the episode is called “{facts.title}”."
        return Line("title", name, "stop", said, use)
    return Line("title", name, "good", f"“{told}”")


@check(31)
def number(facts: Facts) -> Line:
    """A number that no other episode of the show has."""
    name, tags = "Number", facts.timeline.tags
    used = {number for season, number in facts.taken if season == tags.season}
    following = max(used, default=0) + 1
    if tags.episode is None:
        use = _tagged(facts, f"Use {following}", episode=following)
        return Line("number", name, "look", "It has none; apps sort by it.", use)
    if tags.episode in used:
        use = _tagged(facts, f"Use {following}", episode=following)
        said = f"Another episode of {facts.show} is number {tags.episode} already."
        return Line("number", name, "stop", said, use)
    return Line("number", name, "good", f"{tags.episode}, used by no other.")


@check(32)
def tags(facts: Facts) -> Line:
    """What platforms ask for."""
    name, told = "Tags", facts.timeline.tags
    missing = [says for field, says in _NAMES.items() if not getattr(told, field)]
    if not told.language:
        missing.append("language")
    if missing:
        said = f"Missing: {', '.join(missing)}."
        known = {"show": facts.show} if not told.show and facts.show else {}
        go = _tagged(facts, f"Use “{facts.show}” as show", **known) if known else _TO_LABEL
        return Line("tags", name, "look", said, go)
    return Line("tags", name, "good", "Show, who speaks, description and language are told.")


@check(33)
def artwork(facts: Facts) -> Line:
    """A cover that apps take."""
    name = "Artwork"
    if facts.artwork is None:
        said = "None; apps show the show's own, if it has one."
        return Line("artwork", name, "look", said, _TO_LABEL)
    try:
        check_artwork(facts.artwork)
    except BadInput as error:
        return Line("artwork", name, "stop", str(error), _TO_LABEL)
    return Line("artwork", name, "good", "Square, and of a size that apps take.")


@check(34)
def chapters(facts: Facts) -> Line:
    """Chapters that players can show."""
    name, frames = "Chapters", facts.timeline.frames
    marks = [mark for mark in facts.timeline.markers if mark.kind == "chapter"]
    found = chapters_of(facts.timeline)
    if not marks:
        return Line("chapters", name, "good", "None, which is fine for a short episode.")
    beyond = [mark for mark in marks if mark.at >= frames]
    if beyond:
        away = {"kind": "remove_marker", "marker": beyond[0].id}
        said = f"“{beyond[0].name}” lies at the very end, so nobody gets to it."
        return Line("chapters", name, "stop", said, Remedy("Take it away", edit=away))
    if found[0].start > 0:
        first = {"kind": "change_marker", "marker": marks[0].id, "at": 0}
        said = f"The first begins at {found[0].start / FRAME_RATE:.1f} s; players want one at 0:00."
        return Line("chapters", name, "look", said, Remedy("Begin it at 0:00", edit=first))
    short = too_short(found)
    if short:
        said = (
            f"“{short[0].title}” is over in {(short[0].end - short[0].start) / FRAME_RATE:.0f} s."
        )
        return Line("chapters", name, "look", said, _TO_LABEL)
    return Line("chapters", name, "good", f"{len(found)}, from 0:00 to the end.")


@check(35)
def named(facts: Facts) -> Line:
    """Sounds that ask to be named."""
    name, told = "Credits", facts.timeline.tags.description
    missing = [one for one in facts.credits if one and one not in told]
    if missing:
        text = "\n".join([*([told.rstrip(), ""] if told else []), *missing])
        use = _tagged(facts, "Put it there", description=text[:20_000])
        said = f"“{missing[0]}” is not in the description."
        return Line("credits", name, "look", said, use)
    if facts.credits:
        return Line("credits", name, "good", "All sounds are named in the description.")
    return Line("credits", name, "good", "No sound asks to be named.")


def _tagged(facts: Facts, says: str, **changed: object) -> Remedy:
    """A press that sets some tags."""
    told: Tags = facts.timeline.tags.model_copy(update=changed)
    edit = {"kind": "set_tags", "tags": told.model_dump(), "artwork": facts.timeline.artwork}
    return Remedy(says, edit=edit)
