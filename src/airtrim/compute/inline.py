"""Calls done in this very process, as soon as they are asked for."""

from collections.abc import Callable
from concurrent.futures import Future
from typing import Any, TypeVar

T = TypeVar("T")


class Inline:
    """For processes that are themselves one of several at work."""

    room = 0
    """None is at work while another is asked for."""
    alone = ""

    def submit(self, call: Callable[..., T], /, *args: Any) -> "Future[T]":
        """Do it, and return its answer or its error as a future."""
        future: Future[T] = Future()
        try:
            future.set_result(call(*args))
        except Exception as error:
            future.set_exception(error)
        return future

    def needing(self, *_what: str) -> "Inline":
        """The same: what is not here is nowhere."""
        return self


INLINE = Inline()
