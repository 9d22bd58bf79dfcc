"""Whoever tries tokens or links that are wrong: after some, their address waits a minute."""

import time
from collections import OrderedDict, deque

_MOST = 20
_WITHIN_S = 60.0
_MOST_ADDRESSES = 4096


class Strangers:
    """Failures of the last minute, by address. Only the event loop touches it."""

    def __init__(self) -> None:
        self._failures: OrderedDict[str, deque[float]] = OrderedDict()

    def failed(self, address: str) -> None:
        """Note one that failed just now."""
        times = self._failures.setdefault(address, deque(maxlen=_MOST))
        times.append(time.monotonic())
        self._failures.move_to_end(address)
        while len(self._failures) > _MOST_ADDRESSES:
            self._failures.popitem(last=False)

    def shut_out(self, address: str) -> bool:
        """Whether an address has failed so often that it has to wait."""
        times = self._failures.get(address)
        if times is None or len(times) < _MOST:
            return False
        return time.monotonic() - times[0] < _WITHIN_S
