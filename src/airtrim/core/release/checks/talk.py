"""What is said: snags, words that may be wrong, voices without a name."""

import re

from airtrim.core.release.checks.base import Facts, Line, Remedy, check
from airtrim.core.timeline.finding import UNSURE

_MOST_UNSURE_SHARE = 0.02
_NO_NAME = re.compile(r"(voice|track|speaker|guest|host|microphone)( ?\d+)?", re.IGNORECASE)


@check(20)
def snags(facts: Facts) -> Line:
    """Snags that nobody has decided about."""
    title = "Snags"
    open_ = [snag for snag in facts.snags if not snag.kept]
    if not facts.transcribed:
        said = "The words are not written down, so nobody has looked for them."
        return Line("snags", title, "look", said, Remedy("Go to Edit", place="edit"))
    if open_:
        many = "1 is" if len(open_) == 1 else f"{len(open_)} are"
        go = Remedy("Go through them", place="snags", at=open_[0].start)
        return Line("snags", title, "look", f"{many} not decided.", go)
    return Line("snags", title, "good", "All are decided.")


@check(21)
def doubtful(facts: Facts) -> Line:
    """Words of the transcript that may have been misheard."""
    title = "Transcript"
    words = [word for word in facts.words if word.kind == "word"]
    unsure = [word for word in words if word.confidence < UNSURE]
    if not words:
        said = "There are no words: no transcript goes with it."
        return Line("words", title, "look", said, Remedy("Go to Edit", place="edit"))
    if len(unsure) > _MOST_UNSURE_SHARE * len(words):
        said = f"{len(unsure)} of {len(words)} words may have been misheard."
        go = Remedy("Look at the first", place="edit", at=unsure[0].start)
        return Line("words", title, "look", said, go)
    return Line("words", title, "good", f"{len(words)} words, few of them in doubt.")


@check(22)
def voices(facts: Facts) -> Line:
    """Voices that have no name but what they were given to begin with."""
    title = "Who speaks"
    tracks = {track.id: track.name for track in facts.timeline.tracks if track.kind == "voice"}
    speaking = dict.fromkeys(
        (word.track, word.speaker or tracks[word.track])
        for word in facts.words
        if word.track in tracks
    )
    order = list(tracks)
    names = [name for _, name in sorted(speaking, key=lambda one: order.index(one[0]))]
    unnamed = [name for name in names if _NO_NAME.fullmatch(name.strip())]
    if unnamed:
        said = f"“{unnamed[0]}” is no name; transcripts tell it to everybody."
        return Line("voices", title, "look", said, Remedy("Name it", place="edit"))
    return Line("voices", title, "good", ", ".join(names) + "." if names else "Nobody speaks.")
