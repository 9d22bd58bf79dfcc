"""The command line, for people who script. Results on standard output, progress on error."""

from airtrim.cli.base import app
from airtrim.core.modules import import_all

import_all(__name__, __path__)

__all__ = ["app"]
