"""Numbers in addresses: bounded, so that no layer below has to ask."""

from typing import Annotated

from fastapi import Path, Query

from airtrim.core.timeline.bounds import MOST_FRAMES, MOST_NUMBER

Id = Annotated[int, Path(ge=0, le=MOST_NUMBER)]
"""The id of a row."""
Revision = Annotated[int, Query(ge=0, le=MOST_NUMBER)]
"""A state of a document."""
PathFrame = Annotated[int, Path(ge=0, le=MOST_FRAMES)]
"""A frame that an address leads to."""
At = Annotated[int, Query(ge=0, le=MOST_FRAMES)]
"""A frame of an episode or a take."""
