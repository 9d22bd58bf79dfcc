"""What every format of released files has to do, judged by FFmpeg, which writes none of them."""

from pathlib import Path

import numpy as np
import pytest
from tinytag import TinyTag

from airtrim.core.media.take import TakeReader
from airtrim.core.release.chapters import Chapter
from airtrim.core.release.formats import FORMATS
from airtrim.core.release.formats.base import Format, format_named
from airtrim.core.release.labels import Labels
from airtrim.core.release.tags import read_chapters, read_tags
from airtrim.errors import BadInput
from tests.reference import RATE, decoded, programme, pyloudnorm_loudness
from tests.standards.test_release_file import IN_FILES, TAGS, picture

CLOSE = {"mp3": 0.03, "wav": 0.03}
"""The others have no constant rate: what is said of them is about."""

CASES = [
    pytest.param(form, kbits, channels, id=f"{form.name}-{kbits}-{channels}")
    for form in FORMATS.values()
    for kbits in {form.usual_kbits("mono"), form.usual_kbits("stereo")}
    for channels in (1, 2)
]


@pytest.mark.parametrize(("form", "kbits", "channels"), CASES)
def test_a_format_keeps_length_level_and_tags(
    tmp_path: Path, host_take: TakeReader, form: Format, kbits: int | None, channels: int
) -> None:
    sides = [host_take.read(at * RATE, 12 * RATE)[:, 0] for at in (3, 18)[:channels]]
    sound = np.stack(sides, axis=1) * np.float32(0.7)
    path = tmp_path / f"a.{form.name}"
    form.write(iter([sound]), path, frames=len(sound), channels=channels, kbits=kbits)
    size = form.size_bytes(frames=len(sound), channels=channels, kbits=kbits)
    assert path.stat().st_size == pytest.approx(size, rel=CLOSE.get(form.name, 0.5))
    form.label_file(path, Labels(TAGS, picture(), frames=len(sound)))
    back = decoded(path)
    assert back.shape[1] == channels
    assert len(back) == pytest.approx(len(sound), abs=0.06 * RATE)
    assert pyloudnorm_loudness(back) == pytest.approx(pyloudnorm_loudness(sound), abs=0.2)
    found = read_tags(path)
    assert found.pop("artwork") == "1400 × 1400"
    assert found.pop("length_ms", "12000") == "12000"
    assert found == IN_FILES


@pytest.mark.parametrize("form", FORMATS.values(), ids=lambda form: form.name)
def test_a_second_reader_finds_title_number_and_cover(tmp_path: Path, form: Format) -> None:
    """tinytag, which shares no code with mutagen or FFmpeg. (It reads no ID3 in WAV covers.)"""
    sound = programme(3, 1, 3)
    path = tmp_path / f"a.{form.name}"
    form.write(iter([sound]), path, frames=len(sound), channels=1, kbits=None)
    form.label_file(path, Labels(TAGS, picture(), frames=len(sound)))
    found = TinyTag.get(path, image=True)
    assert (found.title, found.artist, found.album) == (TAGS.title, TAGS.artist, TAGS.show)
    assert (found.track, found.year) == (TAGS.episode, str(TAGS.year))
    assert found.duration == pytest.approx(3.0, abs=0.06)
    cover = found.images.front_cover
    assert cover is not None
    assert cover.data == picture()


CHAPTERS = (
    Chapter(0, 3 * RATE, "Über die Bucht", "https://slowcrossing.example/1"),
    Chapter(3 * RATE, 7 * RATE, "The lift in the swell"),
    Chapter(7 * RATE, 12 * RATE, "Fare"),
)


@pytest.mark.parametrize("form", FORMATS.values(), ids=lambda form: form.name)
def test_chapters_are_found_by_ffmpeg(tmp_path: Path, form: Format) -> None:
    sound = programme(12, 1, 3)
    path = tmp_path / f"a.{form.name}"
    form.write(iter([sound]), path, frames=len(sound), channels=1, kbits=None, chapters=CHAPTERS)
    form.label_file(path, Labels(TAGS, picture(), CHAPTERS, len(sound)))
    found = read_chapters(path)
    assert [title for _, _, title in found] == [one.title for one in CHAPTERS]
    assert [start for start, _, _ in found] == [0, 3000, 7000]
    assert [end for _, end, _ in found][:2] == [3000, 7000]
    assert read_tags(path)["title"] == TAGS.title
    assert len(decoded(path)) == pytest.approx(len(sound), abs=0.06 * RATE)


def test_what_is_not_offered_is_refused_with_what_is() -> None:
    with pytest.raises(BadInput, match=r"“tape” is no format .*") as refused:
        format_named("tape")
    assert all(form.title in str(refused.value) for form in FORMATS.values())
    with pytest.raises(BadInput, match=r"MP3 is offered at 64, 80, 96"):
        format_named("mp3").check_kbits(97)
