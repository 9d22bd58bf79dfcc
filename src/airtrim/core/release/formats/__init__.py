"""Formats of released files, a file each; a file that is added here is found by itself."""

from airtrim.core.modules import import_all
from airtrim.core.release.formats.base import FORMATS

import_all(__name__, __path__)

__all__ = ["FORMATS"]
