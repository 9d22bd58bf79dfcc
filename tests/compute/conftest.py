"""Other machines for a test."""

from collections.abc import Iterator

import pytest

from tests.machines import Machines


@pytest.fixture
def machines() -> Iterator[Machines]:
    """A scheduler, and no worker yet."""
    opened = Machines()
    yield opened
    opened.close()
