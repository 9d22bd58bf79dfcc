"""Looking for the snags of a long episode in a process of its own.

It takes a second or two of computing, in which an edit would wait for its turn.
"""

import os
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path
from threading import Lock
from typing import get_args

from airtrim.api.models.snags import AttemptView, SnagKindView, SnagsView, SnagView, TidyView
from airtrim.core.snags.base import Snag
from airtrim.core.snags.decide import How, Proposal, tidy
from airtrim.core.snags.kinds import KINDS
from airtrim.core.snags.talk import talk_of
from airtrim.core.timeline.tone import is_tone
from airtrim.processes import follow
from airtrim.services.finding import snags
from airtrim.store.store import Store

MANY_WORDS = 6_000
"""From here on, about 45 minutes of talk, it is worth a process."""

_store: Store | None = None


def snags_view(store: Store, episode_id: int, revision: int) -> bytes:
    """A ``SnagsView`` as JSON."""
    return store.cache.of(
        ("snags as JSON", *store.snags_key(episode_id, revision)),
        lambda: _searched_for(store, episode_id, revision),
        len,
    )


def _searched_for(store: Store, episode_id: int, revision: int) -> bytes:
    timeline = store.timeline(episode_id, revision)
    if sum(len(words) for words in store.words(timeline).values()) < MANY_WORDS:
        return _view(store, episode_id, revision)
    try:
        view, found = _pool(store.files.root).submit(_searched, episode_id, revision).result()
    except BrokenProcessPool:  # somebody ended it; the next one asked for begins anew
        end()
        return _view(store, episode_id, revision)
    store.remember_snags(episode_id, revision, found)
    return view


def end() -> None:
    """End the process, if there is one."""
    while _pools:
        _pools.popitem()[1].shutdown(wait=False, cancel_futures=True)


_pools: dict[Path, ProcessPoolExecutor] = {}
_one_at_a_time = Lock()


def _pool(root: Path) -> ProcessPoolExecutor:
    with _one_at_a_time:
        if root not in _pools:
            _pools[root] = ProcessPoolExecutor(1, get_context("spawn"), _begin, (os.getpid(), root))
        return _pools[root]


def _begin(parent: int, root: Path) -> None:
    global _store
    follow(parent)
    os.nice(5)
    _store = Store(root)


def _searched(episode_id: int, revision: int) -> tuple[bytes, tuple[Snag, ...]]:
    assert _store is not None
    return _view(_store, episode_id, revision), snags(_store, episode_id, revision)


def _view(store: Store, episode_id: int, revision: int) -> bytes:
    timeline = store.timeline(episode_id, revision)
    words = store.words(timeline)
    found = snags(store, episode_id, revision)
    talk = talk_of(timeline, words)
    view = SnagsView(
        snags=[_one(snag) for snag in found],
        kinds=[
            SnagKindView(kind=name, one=kind.one, many=kind.many, title=kind.title)
            for name, kind in KINDS.items()
        ],
        air_limit_s=timeline.snag_rules.air_limit_s,
        own_fillers=timeline.snag_rules.own_fillers,
        tidy=[_pass(how, tidy(talk, found, how)) for how in get_args(How)],
        complete=all(
            take in words or is_tone(take)
            for track in timeline.tracks
            for take in track.clips.takes
        ),
    )
    return view.model_dump_json().encode()


def _one(snag: Snag) -> SnagView:
    return SnagView(
        id=snag.id,
        kind=snag.kind,
        track=snag.track,
        start=snag.start,
        frames=snag.end - snag.start,
        text=snag.text,
        confidence=snag.confidence,
        reason=snag.reason,
        does=snag.does,
        choices=snag.choices,
        saves=snag.saves,
        cut_start=snag.cut_start,
        cut_frames=snag.cut_end - snag.cut_start,
        attempts=[
            AttemptView(start=a.start, frames=a.end - a.start, text=a.text) for a in snag.attempts
        ],
        kept=snag.kept,
    )


def _pass(how: How, found: Proposal) -> TidyView:
    return TidyView(how=how, frames=found.frames, counts=found.counts, pauses=found.pauses)
