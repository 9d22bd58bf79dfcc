"""The examples in docstrings of the core: they run, and give what they say."""

import doctest
import importlib
import pkgutil
from pathlib import Path

import pytest

from airtrim import core

SOURCES = core.__path__[0]
WITH_EXAMPLES = [
    module.name
    for module in pkgutil.walk_packages(core.__path__, "airtrim.core.")
    if not module.ispkg
    and ">>> "
    in (Path(core.__path__[0]) / (module.name[13:].replace(".", "/") + ".py")).read_text()
]


def test_there_are_examples() -> None:
    assert len(WITH_EXAMPLES) >= 18


@pytest.mark.parametrize("name", WITH_EXAMPLES)
def test_examples_give_what_they_say(name: str) -> None:
    done = doctest.testmod(importlib.import_module(name))
    assert done.attempted > 0
    assert done.failed == 0
