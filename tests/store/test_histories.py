"""Histories that were made before edits had rooms of their own: they open, and mean what they did.

`history_2026_11.sql` is the database of an episode with every kind of edit of that time, written by
the program of that time; `history_2026_11.json` tells what each state of it held.
"""

import hashlib
import json
import sqlite3
from pathlib import Path

import pytest
from pydantic import TypeAdapter

from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.model import Timeline
from airtrim.store.store import Store

HERE = Path(__file__).parent
EPISODE = 1


@pytest.fixture
def old(tmp_path: Path) -> Store:
    """A store on a database of before the change."""
    database = sqlite3.connect(tmp_path / "airtrim.db")
    database.executescript((HERE / "history_2026_11.sql").read_text())
    database.close()
    return Store(tmp_path)


def held(timeline: Timeline) -> str:
    """What a document holds, as a short checksum of plain numbers."""
    tracks = [
        (t.name, t.gain_db, t.muted, [tuple(c) for c in t.clips], [tuple(p) for p in t.envelope])
        for t in timeline.tracks
    ]
    rest = (
        [(s.at, s.name, s.gain_db) for s in timeline.sections],
        [(m.at, m.kind, m.name) for m in timeline.markers],
        [(c.at, c.instead) for c in timeline.cuts],
        sorted(timeline.corrections.items()),
        sorted(timeline.speakers),
        sorted(timeline.room_tones),
        (timeline.script, timeline.tags.title, timeline.loudness.target_lufs),
    )
    text = json.dumps([tracks, rest], default=str)
    return f"{timeline.frames} {hashlib.sha256(text.encode()).hexdigest()[:12]}"


def test_every_state_of_an_old_history_is_what_it_was(old: Store) -> None:
    wanted = json.loads((HERE / "history_2026_11.json").read_text())
    found = [held(old.timeline(EPISODE, revision)) for revision in range(1, len(wanted) + 1)]
    assert found == wanted
    assert not old.timeline(EPISODE, len(wanted)).notices


def test_edits_of_an_old_history_are_named_as_they_were(old: Store) -> None:
    """The names are stored: words that are chosen anew are for new edits."""
    adapter: TypeAdapter[Edit] = TypeAdapter(Edit)
    database = sqlite3.connect(old.files.root / "airtrim.db")
    rows = database.execute("select id, parent_id, name, edit from edit").fetchall()
    assert len({json.loads(edit)["kind"] for *_, edit in rows}) == 48
    for _, parent, _, edit in rows:
        before = old.timeline(EPISODE, parent or 0)
        assert adapter.validate_json(edit).describe(before)
    shown = {entry.name for entry in old.history(EPISODE)}
    assert shown <= {name for *_, name, _ in rows}
    assert len(shown) > 40
