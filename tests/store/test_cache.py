"""The one cache: bounded by bytes, and never out of date, also across processes."""

from pathlib import Path

import pytest

from airtrim.store.cache import Cache, stamp
from tests.store.stale import Pairs


@pytest.mark.parametrize("seed", range(3))
def test_a_change_in_one_process_is_seen_in_the_other(tmp_path: Path, seed: int) -> None:
    """Each store has a cache of its own, as each process has. (10,000 pairs: bench/trust.py.)"""
    pairs = Pairs(tmp_path, seed)
    try:
        for _ in range(60):
            assert pairs.run() is None
    finally:
        pairs.close()


def test_the_cache_stays_within_its_bytes_and_drops_the_oldest() -> None:
    cache = Cache(most_bytes=1000)
    for number in range(50):
        cache.of(("value", number), lambda n=number: n + 1, lambda _: 90)
        cache.get(("value", 0))
    assert cache.bytes <= 1000
    assert cache.get(("value", 0)) == 1  # used all the time
    assert cache.get(("value", 1)) is None
    assert cache.get(("value", 49)) == 50
    cache.put(("huge",), "x", 1001)
    assert cache.get(("huge",)) is None


def test_dropped_values_give_their_bytes_back() -> None:
    cache = Cache(most_bytes=1000)
    for number in range(5):
        cache.put(("document", number), number + 1, 100)
    cache.drop(lambda key: key[1] in (1, 2))
    assert cache.bytes == 300
    assert cache.get(("document", 1)) is None
    assert cache.get(("document", 3)) == 4


def test_a_replaced_file_is_another_key(tmp_path: Path) -> None:
    path = tmp_path / "sound"
    path.write_bytes(b"one")
    before = stamp(path)
    (tmp_path / "part").write_bytes(b"two")
    (tmp_path / "part").replace(path)
    assert stamp(path) != before
