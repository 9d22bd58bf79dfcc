"""Working ahead: a stream of blocks made in another thread while this one uses them."""

import queue
import threading
from collections.abc import Iterator
from typing import TypeVar

_MOST_AHEAD = 8
_LOOK_EVERY_S = 0.1


T = TypeVar("T")


def ahead(source: Iterator[T]) -> Iterator[T]:
    """The blocks of ``source``, up to eight made before they are asked for.

    Decoders, filters and encoders let go of the interpreter while they work, so two cores share
    one stream. An error in ``source`` is raised here; a caller that stops early stops it too.
    """
    line: queue.Queue[T | BaseException | None] = queue.Queue(_MOST_AHEAD)
    stopped = threading.Event()

    def put(item: T | BaseException | None) -> None:
        while not stopped.is_set():
            try:
                return line.put(item, timeout=_LOOK_EVERY_S)
            except queue.Full:
                continue

    def work() -> None:
        try:
            for block in source:
                put(block)
                if stopped.is_set():
                    return
        except BaseException as error:
            put(error)
        else:
            put(None)

    thread = threading.Thread(target=work, name="ahead", daemon=True)
    thread.start()
    try:
        while (item := line.get()) is not None:
            if isinstance(item, BaseException):
                raise item
            yield item
    finally:
        stopped.set()
        thread.join()
