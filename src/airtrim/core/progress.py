"""How work that takes its time tells how far it is."""

from collections.abc import Callable

Progress = Callable[[float, str], None]
"""Called with a fraction 0–1 and what is being done; may raise Cancelled."""
