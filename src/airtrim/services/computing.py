"""What this machine can do for others: the recognisers that it has."""

from airtrim.core.speech.models import Weights, know, weights_in
from airtrim.core.speech.recognisers import installed
from airtrim.settings import Settings


def recognisers_here(settings: Settings) -> tuple[Weights, ...]:
    """The weights of each recogniser that is installed here, the one of the settings among them.
    Raises BadInput where they are missing or damaged."""
    return tuple(weights_in(settings.model_of(which)) for which in installed())


def begin(weights: tuple[Weights, ...]) -> None:
    """Prepare a process to do what is heavy with these recognisers."""
    for one in weights:
        know(one)
