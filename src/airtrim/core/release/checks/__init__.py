"""What is looked at before an episode goes out; a file for each matter. A check that is added here
is found by itself."""

from airtrim.core.modules import import_all
from airtrim.core.release.checks.base import (
    CHECKS,
    Facts,
    Gentler,
    Line,
    Remedy,
    State,
    checked,
    word_for,
)

import_all(__name__, __path__)

__all__ = ["CHECKS", "Facts", "Gentler", "Line", "Remedy", "State", "checked", "word_for"]
