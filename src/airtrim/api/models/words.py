"""The script, and words corrected."""

from pydantic import BaseModel, Field

from airtrim.api.models.episode import ChangeRequest, RevisionRequest
from airtrim.core.speech.recognisers import Recogniser
from airtrim.core.speech.script import Difference
from airtrim.core.timeline.bounds import MOST_FRAMES


class HeldView(BaseModel):
    """A script held against the episode: the part of the words said that are in it (0–1), where
    they differ, and how many words would be written otherwise."""

    shared: float
    differences: list[Difference]
    spelling: int


class RecogniserView(BaseModel):
    """What can write down words, and the languages that it knows (ISO 639-1)."""

    name: Recogniser
    languages: list[str]


class WordsRequest(BaseModel):
    """By what words are to be written down, and in which language; empty: found by itself."""

    recogniser: Recogniser
    language: str = Field(default="", max_length=8)


class LookedAt(RevisionRequest):
    """A frame that a host looks at."""

    at: int = Field(ge=0, le=MOST_FRAMES)


class CorrectAllRequest(ChangeRequest):
    """Write every word that is written like ``old`` as ``new``."""

    old: str = Field(min_length=1, max_length=200)
    new: str = Field(min_length=1, max_length=200)


class ScriptView(BaseModel):
    """The script, or the notes, of an episode."""

    text: str
