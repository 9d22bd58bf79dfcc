"""Handing files over: ways to a host, a file each; a way that is added here is found by itself."""

from airtrim.core.modules import import_all
from airtrim.services.handing.base import WAYS, Arrived, Way, way_named

import_all(__name__, __path__)

__all__ = ["WAYS", "Arrived", "Way", "way_named"]
