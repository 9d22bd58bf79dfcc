"""How loud it is, where it begins and where it ends."""

from airtrim.core.loudness.levelling import EVEN_LU
from airtrim.core.media import FRAME_RATE
from airtrim.core.release.checks.base import Facts, Line, Remedy, check

_LONGEST_EDGE_S = 2.0
_MEASURE = Remedy("Measure", doing="measure")
_EVEN_OUT = Remedy("Even out", doing="even_out")


@check(10)
def loudness(facts: Facts) -> Line:
    """The whole beside its target."""
    title, target = "Loudness", facts.timeline.loudness.target
    if facts.levels is None:
        return Line("loudness", title, "look", "It was not measured since the last edit.", _MEASURE)
    after = facts.levels.after
    if after is None:
        return Line("loudness", title, "stop", "There is nothing to hear in it.")
    said = f"{_minus(after)} LUFS, {_minus(target)} wanted"
    if abs(after - target) > EVEN_LU:
        return Line(
            "loudness", title, "look", f"{said}: the file will be brought there.", _EVEN_OUT
        )
    return Line("loudness", title, "good", f"{said}.")


@check(11)
def sections(facts: Facts) -> Line | None:
    """Parts beside each other."""
    title = "Parts beside each other"
    if facts.levels is None:
        return None
    apart = facts.levels.apart_lu
    if apart > EVEN_LU:
        said = f"They are {apart:.1f} LU apart; a listener reaches for the volume."
        return Line("sections", title, "look", said, _EVEN_OUT)
    return Line("sections", title, "good", f"Within {max(apart, 0.1):.1f} LU of each other.")


@check(12)
def peaks(facts: Facts) -> Line | None:
    """What the limiter has to do for the ceiling."""
    title = "Loudest moments"
    ceiling = _minus(facts.timeline.loudness.ceiling_dbtp)
    if facts.levels is None:
        return None
    if facts.levels.limiter_heard:
        most = facts.levels.most_limiting_db
        said = f"Held down by up to {most:.0f} dB for {ceiling} dBTP, which is heard. "
        if facts.gentler is None:
            said += "A lower target, or a gentler compressor, leaves more room."
            return Line("peaks", title, "look", said, Remedy("Go to Loudness", place="loudness"))
        said += f"A compressor on {facts.gentler.name} does it more gently."
        press = Remedy(f"Compress {facts.gentler.name}", edit=facts.gentler.edit)
        return Line("peaks", title, "look", said, press)
    return Line("peaks", title, "good", f"Under {ceiling} dBTP without a limiter that is heard.")


@check(13)
def edges(facts: Facts) -> Line | None:
    """Silence before the first sound and after the last."""
    title = "Beginning and end"
    if facts.edges is None:
        return None
    limit = round(_LONGEST_EDGE_S * FRAME_RATE)
    before, after = facts.edges
    if before <= limit and after <= limit:
        return Line("edges", title, "good", "No long silence at either.")
    frames = facts.timeline.frames
    if before > limit:
        said = f"{before / FRAME_RATE:.1f} s of silence before it begins."
        start, count = 0, before - FRAME_RATE // 2
    else:
        said = f"{after / FRAME_RATE:.1f} s of silence at its end."
        start, count = frames - after + FRAME_RATE, after - FRAME_RATE
    cut = {"kind": "cut", "start": start, "frames": count}
    return Line("edges", title, "look", said, Remedy("Cut it", edit=cut))


def _minus(value: float) -> str:
    return f"{value:.1f}".replace("-", "−")
