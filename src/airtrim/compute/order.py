"""Calls under way on several stretches at once, answered in order."""

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, wait
from typing import Any, Protocol, TypeVar

T = TypeVar("T")

_LOOK_EVERY_S = 0.2


class Compute(Protocol):
    """Where calls are done, with the face of ``concurrent.futures.Executor``."""

    @property
    def room(self) -> int:
        """How many calls can be at work at once."""
        ...

    @property
    def alone(self) -> str:
        """Why this machine works alone where others were asked for; empty where all is well."""
        ...

    def submit(self, call: Callable[..., T], /, *args: Any) -> "Future[T]":
        """Have a call done; it and what it is given and answers must be able to travel."""
        ...

    def needing(self, *what: str) -> "Compute":
        """The same, for calls that can be done only where there is all of ``what``."""
        ...


def in_order(
    compute: Compute,
    call: Callable[..., T],
    stretches: Iterable[tuple[Any, ...]],
    look: Callable[[], None] = lambda: None,
) -> Iterator[T]:
    """What ``call`` answers for each of ``stretches``, in their order. No more are under way than
    are of use, so memory stays constant. ``look`` is called some times a second meanwhile, and may
    raise Cancelled: what has not begun is not done then.

    >>> from airtrim.compute.inline import INLINE
    >>> list(in_order(INLINE, pow, [(2, 3), (3, 2)]))
    [8, 9]
    """
    left = iter(stretches)
    under_way: deque[Future[T]] = deque()
    try:
        while True:
            for stretch in left:
                under_way.append(compute.submit(call, *stretch))
                # As many wait as are at work: while the first takes its time, nobody is idle.
                if len(under_way) > 2 * compute.room:
                    break
            if not under_way:
                return
            while not wait([under_way[0]], timeout=_LOOK_EVERY_S).done:
                look()
            yield under_way.popleft().result()
    finally:
        for future in under_way:
            future.cancel()


def told(doing: str, compute: Compute) -> str:
    """What is being done, and that it is done without the machines that were asked for, if so.

    >>> from airtrim.compute.inline import INLINE
    >>> told("Measuring", INLINE)
    'Measuring'
    """
    return f"{doing} ({compute.alone})" if compute.alone else doing
