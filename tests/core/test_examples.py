"""The examples in docstrings of signal functions: they run, and give what they say."""

import doctest
import importlib

import pytest

MODULES = [
    "loudness.meter",
    "media.decode",
    "sound.compressor",
    "sound.denoise",
    "sound.filters",
    "timeline.envelope",
    "timeline.snap",
]


@pytest.mark.parametrize("name", MODULES)
def test_examples_give_what_they_say(name: str) -> None:
    done = doctest.testmod(importlib.import_module(f"airtrim.core.{name}"))
    assert done.attempted > 0
    assert done.failed == 0
