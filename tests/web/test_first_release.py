"""A host brings a recording to a draft: what it takes, and what is left in it."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
import soxr
from playwright.sync_api import Page

from airtrim.core.timeline.words import words_on
from airtrim.store.store import Store
from tests.serving import RATE, Server
from tests.web.firstrelease import Attention, KeysOnly, released
from tests.web.test_tasks import Hand


@pytest.fixture
def talk(tmp_path: Path) -> Path:
    """Two voices of the demo on one track, one softer than the other, with their mistakes."""
    parts = []
    for name, gain in (("host-opening", 1.0), ("guest", 0.35)):
        sound, rate = soundfile.read(f"demo/sound/{name}.flac", dtype="float32")
        parts.append(gain * soxr.resample(sound[: 30 * rate], rate, RATE))
    file = tmp_path / "talk.flac"
    soundfile.write(file, np.concatenate(parts), RATE)
    return file


def test_a_recording_becomes_a_draft_with_little_attention(
    page: Page, server: Server, talk: Path, tmp_path: Path
) -> None:
    """Ten minutes and sixty actions are an hour's; of a minute it takes less."""
    pages = tmp_path / "pages"
    pages.mkdir()
    found = released(Hand(page), server, talk, pages, splices=2)
    assert found.hand.actions <= 40, found.steps
    assert found.seconds <= 120, found.steps
    assert_settled(server, found, pages)


def test_the_same_without_a_pointer(page: Page, server: Server, talk: Path, tmp_path: Path) -> None:
    pages = tmp_path / "pages"
    pages.mkdir()
    assert_settled(server, released(KeysOnly(page), server, talk, pages, splices=1), pages)


def assert_settled(server: Server, found: Attention, pages: Path) -> None:
    store = Store(server.data)
    timeline = store.current(found.episode)
    words = words_on(timeline, store.words(timeline))
    assert not [word for word in words if word.kind == "filler"]
    assert timeline.trimmed > 2 * RATE
    store.close()
    assert list(pages.glob("airtrim-*"))
