"""Random pairs of a change in one process and a read in another on the same data."""

import tempfile
from pathlib import Path

from tests.store.stale import Pairs

from bench.measuring import Row


def stale(pairs: int) -> list[Row]:
    """Count stale reads. Each store has its own cache, as each process has one."""
    with tempfile.TemporaryDirectory() as folder:
        run = Pairs(Path(folder), seed=pairs)
        found = [stale for _ in range(pairs) if (stale := run.run()) is not None]
        run.close()
    for sentence in found[:5]:
        print(sentence)
    what = f"{pairs} pairs of a change in one store and a read in another: stale reads"
    return [Row(what, "", "", str(len(found)), "0", not found)]
