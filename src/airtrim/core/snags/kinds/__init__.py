"""Kinds of snags, a file each; a file that is added here is found by itself."""

from typing import get_args

from airtrim.core.modules import import_all
from airtrim.core.snags.base import REGISTERED, Kind
from airtrim.core.timeline.model import SnagKind

import_all(__name__, __path__)

KINDS: dict[SnagKind, Kind] = {kind: REGISTERED[kind] for kind in get_args(SnagKind)}
"""Every kind of snag there is, in the order in which they are listed."""
