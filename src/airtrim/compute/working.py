"""A machine that does calls for others: worker processes of a Dask scheduler."""

import asyncio
import logging
import os
import signal
import socket
from collections.abc import Callable
from typing import Any

from airtrim.compute.cluster import LIMITS, THIS_VERSION, check_installed, has_certificates
from airtrim.errors import CannotStart

_SETTINGS = {
    # Dask would have memory given back to the system at each turn, only to be asked for again.
    "distributed.nanny.pre-spawn-environ": {"OMP_NUM_THREADS": 1, "OPENBLAS_NUM_THREADS": 1},
    "distributed.worker.profile.enabled": False,
}


def work_for(
    address: str,
    processes: int,
    offers: frozenset[str],
    begin: Callable[[], None],
    ready: Callable[[int], None] = lambda _: None,
) -> None:
    """Work for the scheduler at ``address`` until it is gone or this process is ended, with so many
    ``processes``, each of which does one call at a time. ``offers`` is what they have beside this
    version; ``begin`` has to be able to travel.

    Raises CannotStart where the scheduler cannot be reached, BadInput where what that needs is not
    installed.
    """
    check_installed()
    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    asyncio.run(_work(address, processes, offers | {THIS_VERSION}, begin, ready))


async def _work(
    address: str,
    processes: int,
    offers: frozenset[str],
    begin: Callable[[], None],
    ready: Callable[[int], None],
) -> None:
    import dask
    from distributed import Nanny
    from distributed.comm.core import connect
    from distributed.security import Security

    from airtrim.compute.beginning import Begin

    if not has_certificates(address):
        raise CannotStart(
            f"{address} asks for certificates, and Dask’s settings name none here: see "
            "“Certificates” in docs/scaling.md."
        )
    try:
        keys: dict[str, Any] = Security().get_connection_args("worker")  # type: ignore[no-untyped-call]
        comm = await connect(address, timeout=LIMITS.connect_s, **keys)  # type: ignore[no-untyped-call]
        await comm.close()
    except (OSError, ValueError) as error:
        raise CannotStart(
            f"No scheduler answers at {address}. Start one with `dask scheduler`, or name the "
            "address at which it runs, as tcp://HOST:8786."
        ) from error
    dask.config.set(_SETTINGS)
    ended = asyncio.Event()
    loop = asyncio.get_running_loop()
    for number in (signal.SIGINT, signal.SIGTERM):
        loop.add_signal_handler(number, ended.set)
    # A nanny starts another process where its own is gone.
    workers = [
        Nanny(
            address,
            nthreads=1,
            name=f"{socket.gethostname()}-{os.getpid()}-{number}",
            resources=dict.fromkeys(offers, 1),
            plugins=(Begin(begin),),
            death_timeout=LIMITS.again_s,
            dashboard=False,
            silence_logs=logging.CRITICAL,
        )
        for number in range(processes)
    ]
    await asyncio.gather(*workers)
    ready(processes)
    gone: asyncio.Future[Any] = asyncio.gather(*(_finished(worker) for worker in workers))
    stop: asyncio.Future[Any] = asyncio.ensure_future(ended.wait())
    await asyncio.wait([gone, stop], return_when=asyncio.FIRST_COMPLETED)
    stop.cancel()
    await asyncio.gather(*(worker.close() for worker in workers), return_exceptions=True)


async def _finished(worker: Any) -> None:
    await worker.finished()
