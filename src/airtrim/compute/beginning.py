"""What each worker process of a scheduler does first. Apart, since it needs Dask to be there."""

from collections.abc import Callable

from distributed import Worker, WorkerPlugin


class Begin(WorkerPlugin):
    """Calls ``begin`` in a worker process when it starts, and in one that takes its place."""

    def __init__(self, begin: Callable[[], None]) -> None:
        self._begin = begin

    def setup(self, worker: Worker) -> None:
        """Called by Dask."""
        self._begin()
