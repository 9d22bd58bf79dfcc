"""Looking through every episode on the shelf: titles, and what is said."""

import re
from dataclasses import dataclass

from airtrim.core.timeline.finding import Hit, find, plain
from airtrim.core.timeline.words import words_on
from airtrim.store.store import Store

MOST_FOUND = 40
_MOST_OF_ONE = 3
"""Places of one episode, so that one does not hide the others."""
_MOST_OPENED = 60
"""Episodes whose documents are opened for one search."""
_LETTERS = re.compile(r"[a-z]{2,}")


@dataclass(frozen=True, slots=True)
class Found:
    """An episode whose title holds what was looked for, or a place in one where it is said."""

    episode_id: int
    title: str
    show: str
    hit: Hit | None


def search(store: Store, text: str) -> list[Found]:
    """What is found, newest episodes first: titles, then what is said."""
    wanted = [word for word in (plain(part) for part in text.split()) if word]
    if not wanted:
        return []
    episodes = [(row, show) for show, rows in store.shows() for row in rows]
    titles = [
        Found(row.id or 0, row.title, show.name, None)
        for row, show in episodes
        if all(word in plain(row.title) for word in wanted)
    ]
    # The database knows which episodes hold these letters at all: only those are opened.
    parts = [max(found, key=len) for word in wanted if (found := _LETTERS.findall(word))]
    holding = store.episodes_holding(parts)
    said: list[Found] = []
    opened = [(row, show) for row, show in episodes if row.id in holding][:_MOST_OPENED]
    for row, show in opened:
        if len(titles) + len(said) >= MOST_FOUND:
            break
        timeline = store.current(row.id or 0)
        hits = find(words_on(timeline, store.words(timeline)), text)[:_MOST_OF_ONE]
        said += [Found(row.id or 0, row.title, show.name, hit) for hit in hits]
    return [*titles, *said][:MOST_FOUND]
