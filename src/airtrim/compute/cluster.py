"""Calls done by other machines, through a Dask scheduler; data stay where they are.

A worker says what it has (this version, which weights) as resources, so that no call goes where it
could not be done. A call whose worker dies is done elsewhere by the scheduler, one whose workers
died time after time by this machine; one whose worker does nothing for long is given to another;
where there is no worker left, or no scheduler, this machine goes on by itself and says so.
"""

import logging
import socket
import threading
import time
import warnings
from collections import Counter
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, InvalidStateError
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache, partial
from importlib.metadata import version
from importlib.util import find_spec
from typing import Any, TypeVar
from urllib.parse import urlsplit

from airtrim.compute.here import here, pass_on
from airtrim.compute.order import Compute
from airtrim.errors import BadInput

T = TypeVar("T")

THIS_VERSION = f"airtrim-{version('airtrim')}"
"""What a worker has to have for any call."""

ALONE = "no other machine can be reached, so this one works alone"
UNABLE = "no other machine has what this needs, so this one works alone"
NO_CERTIFICATES = "no certificates are named for the other machines, so this one works alone"

_PORT = 8786
_LOST = (OSError, RuntimeError)
"""What Dask says where a scheduler is gone or silent; RuntimeError, that its own loop is closed."""


@dataclass(frozen=True, slots=True)
class ClusterLimits:
    """How long is waited for what; in seconds."""

    connect_s: float = 3.0
    again_s: float = 30.0
    """Before a scheduler that was not there is tried again."""
    look_s: float = 0.5
    gone_s: float = 5.0
    """How long no worker may be there before this machine goes on."""
    stalled_s: float = 120.0
    """How long a worker may have a call, for each it has; ten times what the longest takes."""


LIMITS = ClusterLimits()


class Cluster:
    """The machines behind a scheduler. ``urgent``: before what others have it do."""

    def __init__(
        self, link: "Link", urgent: bool, needs: frozenset[str] = frozenset({THIS_VERSION})
    ) -> None:
        self._link, self._urgent, self._needs = link, urgent, needs

    @property
    def room(self) -> int:
        """As many as there are workers that can, or as this machine can do where there is none."""
        return len(self._link.able(self._needs)) or here().room

    @property
    def alone(self) -> str:
        """Why this machine works alone, if it does; else empty."""
        return self._link.alone

    def needing(self, *what: str) -> "Cluster":
        """The same, for calls that only workers with ``what`` can do."""
        return Cluster(self._link, self._urgent, self._needs | set(what))

    def submit(self, call: Callable[..., T], /, *args: Any) -> "Future[T]":
        """Have a call done by a worker, or here where there is none."""
        task = _Task(self._link, partial(call, *args), self._needs, self._urgent)
        task.send()
        return task.future


class Link:
    """The connection of this process to one scheduler, kept open, and the calls under way."""

    def __init__(self, address: str, limits: ClusterLimits = LIMITS) -> None:
        self.address, self.limits = address, limits
        self.alone = ""
        self._client: Any = None
        self._workers: dict[str, set[str]] = {}
        self._asked = -limits.again_s
        self._tried = -limits.again_s
        self._lock = threading.Lock()
        self._under_way: set[_Task] = set()
        self._watch: threading.Thread | None = None

    def client(self) -> Any:
        """The open connection; None where the scheduler cannot be reached."""
        from distributed import Client

        with self._lock:
            if self._client is not None and self._client.status == "running":
                return self._client
            if time.monotonic() - self._tried < self.limits.again_s:
                return None
            self._close()
            _quiet()
            if not has_certificates(self.address):
                self._tried = time.monotonic()
                self.alone = NO_CERTIFICATES
                return None
            try:
                # Asked first whether anybody listens: a client that gave up complains later.
                _knock(self.address, self.limits.connect_s)
                self._client = Client(  # type: ignore[no-untyped-call]
                    self.address, timeout=self.limits.connect_s, set_as_default=False
                )
            except (OSError, ValueError):
                self._tried = time.monotonic()
                self.alone = ALONE
                return None
            self.alone = ""
            return self._client

    def able(self, needs: frozenset[str]) -> list[str]:
        """The addresses of the workers that have all of ``needs``."""
        if time.monotonic() - self._asked > self.limits.look_s:
            workers = self._ask("identity", n_workers=-1).get("workers", {})
            self._workers = {where: set(told["resources"]) for where, told in workers.items()}
            self._asked = time.monotonic()
        return [where for where, has in self._workers.items() if needs <= has]

    def _ask(self, what: str, **given: Any) -> dict[str, Any]:
        """What the scheduler says to a question; nothing where it is gone or silent."""
        client = self.client()
        if client is None:
            return {}
        try:
            asked = getattr(client.scheduler, what)
            answer: dict[str, Any] = client.sync(
                asked, callback_timeout=self.limits.gone_s, **given
            )
        except _LOST:
            with self._lock:
                self._tried, self.alone = time.monotonic(), ALONE
                self._close()
            return {}
        return answer

    def watch(self, task: "_Task") -> None:
        """Look after a call until it is done."""
        with self._lock:
            self._under_way.add(task)
            if self._watch is None:
                self._watch = threading.Thread(target=self._look, name="cluster", daemon=True)
                self._watch.start()

    def _look(self) -> None:
        """Give calls that nobody does any more to somebody else, or to this machine."""
        seen: dict[frozenset[str], float] = {}
        while True:
            time.sleep(self.limits.look_s)
            with self._lock:
                self._under_way = {one for one in self._under_way if not one.future.done()}
                under_way = list(self._under_way)
                if not under_way:
                    self._watch = None
                    return
            now = time.monotonic()
            for needs in {one.needs for one in under_way}:
                if self.able(needs):
                    seen[needs] = now
                elif now - seen.setdefault(needs, now) > self.limits.gone_s:
                    self.alone = ALONE
                    for one in under_way:
                        if one.needs == needs:
                            one.do_here()
            told = self._ask("processing", workers=None)
            self._spread(under_way, {key: at for at, keys in told.items() for key in keys}, now)

    @staticmethod
    def _spread(under_way: list["_Task"], given: dict[str, str], now: float) -> None:
        counts = Counter(given.values())
        for one in under_way:
            where = given.get(one.key)
            if where is not None and one.stalled(where, now, counts[where]):
                one.send(without=where)

    def _close(self) -> None:
        """Let go of the connection without waiting; what was asked of it is cancelled."""
        if self._client is not None:
            threading.Thread(target=_closed, args=(self._client,), daemon=True).start()
            self._client = None


def _closed(client: Any) -> None:
    with suppress(Exception):
        client.close(timeout=1)


class _Task:
    """A call under way, wherever it is just now."""

    def __init__(
        self, link: Link, call: Callable[[], Any], needs: frozenset[str], urgent: bool
    ) -> None:
        self._link, self._call, self.needs, self._urgent = link, call, needs, urgent
        self.future: Future[Any] = Future()
        self.future.add_done_callback(lambda _: self._let_go())
        self._sent: list[Any] = []
        self._at, self._since = "", 0.0
        self._here = False

    @property
    def key(self) -> str:
        """By which the scheduler knows it."""
        return self._sent[-1].key if self._sent else ""

    def send(self, without: str = "") -> None:
        """Give it to a worker, another one than ``without``; where there is none, do it here."""
        able = [where for where in self._link.able(self.needs) if where != without]
        client = self._link.client()
        if client is None or not able:
            if client is not None and not without:
                self._link.alone = UNABLE
            self.do_here()
            return
        try:
            sent = client.submit(
                self._call,
                pure=False,
                resources=dict.fromkeys(self.needs, 1),
                priority=1 if self._urgent else 0,
                workers=able if without else None,
            )
        except _LOST:
            self.do_here()
            return
        self._link.alone = ""
        self._sent.append(sent)
        self._at = ""
        sent.add_done_callback(self._answered)
        self._link.watch(self)

    def do_here(self) -> None:
        """Do it on this machine."""
        if not (self._here or self.future.done()):
            self._here = True
            compute_at("", urgent=self._urgent).submit(self._call).add_done_callback(
                lambda done: pass_on(done, self.future)
            )

    def stalled(self, where: str, now: float, beside: int) -> bool:
        """Whether the worker at ``where``, which has ``beside`` calls, has had it for too long."""
        if where != self._at:
            self._at, self._since = where, now
        return now - self._since > self._link.limits.stalled_s * beside

    def _answered(self, sent: Any) -> None:
        from distributed.scheduler import KilledWorker

        with suppress(InvalidStateError):
            try:
                self.future.set_result(sent.result(timeout=self._link.limits.stalled_s))
            except (CancelledError, KilledWorker, *_LOST):
                # Workers may have died of something else; where it ends one of this machine's own
                # processes as well, it was the call.
                self.do_here()
            except Exception as error:
                self.future.set_exception(error)

    def _let_go(self) -> None:
        """Have nobody do it any more. To cancel would wait for the scheduler, which may hang."""
        for sent in self._sent:
            sent.release()


def _knock(address: str, seconds: float) -> None:
    where = urlsplit(address)
    with socket.create_connection((where.hostname or "", where.port or _PORT), timeout=seconds):
        pass


def _quiet() -> None:
    """What goes wrong with a cluster is told by this product, in its own words."""
    for name in ("distributed", "distributed.client", "distributed.comm", "tornado.application"):
        logging.getLogger(name).setLevel(logging.CRITICAL)
    # A stretch of sound travels with its call.
    warnings.filterwarnings("ignore", "Sending large graph", UserWarning)


@lru_cache(maxsize=4)
def _link(address: str) -> Link:
    return Link(address)


def compute_at(address: str, *, urgent: bool = True) -> Compute:
    """Where heavy work is done: on this machine where ``address`` is empty, else on those behind
    the scheduler at ``tcp://…`` or ``tls://…``. Raises BadInput where what that needs is not
    installed."""
    if not address:
        return here() if urgent else here().giving_way
    check_installed()
    return Cluster(_link(address), urgent)


def check_installed() -> None:
    """Raise BadInput where what a cluster needs is not installed."""
    if find_spec("distributed") is None:
        raise BadInput("Work on other machines needs `pip install airtrim[cluster]`.")


def has_certificates(address: str) -> bool:
    """Whether Dask's settings name what a scheduler at ``tls://…`` asks for; others ask for none.

    >>> has_certificates("tcp://studio:8786")
    True
    """
    if not address.startswith("tls://"):
        return True
    from distributed.security import Security

    of_client: dict[str, object] = Security().get_connection_args("client")  # type: ignore[no-untyped-call]
    return of_client.get("ssl_context") is not None
