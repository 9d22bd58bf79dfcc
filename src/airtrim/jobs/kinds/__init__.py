"""The kinds of work, a file each; a file that is added here is found by itself."""

from airtrim.core.modules import import_all
from airtrim.jobs.base import KINDS

import_all(__name__, __path__)

__all__ = ["KINDS"]
