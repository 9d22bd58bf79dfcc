"""What every format of released files has to do, judged by FFmpeg, which writes none of them."""

from pathlib import Path

import numpy as np
import pytest

from airtrim.core.release.formats import FORMATS
from airtrim.core.release.formats.base import Format, format_named
from airtrim.core.release.tags import read_tags
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput
from tests.reference import RATE, decoded, programme

CASES = [
    pytest.param(form, kbits, channels, id=f"{form.name}-{kbits}-{channels}")
    for form in FORMATS.values()
    for kbits in {form.usual_kbits("mono"), form.usual_kbits("stereo")}
    for channels in (1, 2)
]


@pytest.mark.parametrize(("form", "kbits", "channels"), CASES)
def test_a_format_keeps_length_level_and_tags(
    tmp_path: Path, form: Format, kbits: int | None, channels: int
) -> None:
    sound = programme(12, channels, 3)
    path = tmp_path / f"a.{form.name}"
    form.write(iter([sound]), path, frames=len(sound), channels=channels, kbits=kbits)
    size = form.size_bytes(frames=len(sound), channels=channels, kbits=kbits)
    assert path.stat().st_size == pytest.approx(size, rel=0.03)
    form.tag(path, Tags(title="Slack water", show="The Ferry Hour"), duration_s=12.0)
    back = decoded(path)
    assert back.shape[1] == channels
    assert len(back) == pytest.approx(len(sound), abs=0.06 * RATE)
    level = np.sqrt(np.mean(np.square(back, dtype=np.float64)) / np.mean(np.square(sound)))
    assert abs(20 * np.log10(level)) < 0.2
    found = read_tags(path)
    assert (found["title"], found["show"]) == ("Slack water", "The Ferry Hour")


def test_what_is_not_offered_is_refused_with_what_is() -> None:
    with pytest.raises(BadInput, match=r"“tape” is no format .*") as refused:
        format_named("tape")
    assert all(form.title in str(refused.value) for form in FORMATS.values())
    with pytest.raises(BadInput, match=r"MP3 is offered at 64, 80, 96"):
        format_named("mp3").check_kbits(97)
