"""Setups: what the episodes of a show have in common, under names."""

from sqlmodel import col, select

from airtrim.core.timeline.setup import Setup
from airtrim.errors import BadInput, NotFound
from airtrim.store.database import reading, writing
from airtrim.store.rows import Rows, row_of
from airtrim.store.tables import EpisodeRow, SetupRow, ShowRow, now

MOST_SETUPS = 100
_GONE = "That setup is not kept any more."


class Setups(Rows):
    """The setups of shows."""

    def setups(self, show_id: int) -> list[SetupRow]:
        """Those of a show, what was changed or used last first."""
        with reading(self.engine) as session:
            row_of(session, ShowRow, show_id, "That show is not on the shelf.")
            query = select(SetupRow).where(
                SetupRow.show_id == show_id, col(SetupRow.deleted_at).is_(None)
            )
            return list(session.exec(query.order_by(col(SetupRow.used_at).desc())).all())

    def setup(self, setup_id: int) -> SetupRow:
        """One of them. Raises NotFound where it was taken away."""
        with reading(self.engine) as session:
            row = row_of(session, SetupRow, setup_id, _GONE)
        if row.deleted_at is not None:
            raise NotFound(_GONE)
        return row

    def keep_setup(self, show_id: int, name: str, setup: Setup) -> SetupRow:
        """Keep a setup under a name; one of that name in the show is replaced."""
        self.files.need(0)
        with writing(self.engine) as session:
            row_of(session, ShowRow, show_id, "That show is not on the shelf.")
            query = select(SetupRow).where(SetupRow.show_id == show_id)
            rows = session.exec(query).all()
            row = next((row for row in rows if row.name == name), None)
            if row is None and sum(row.deleted_at is None for row in rows) >= MOST_SETUPS:
                raise BadInput(f"A show has {MOST_SETUPS} setups at most. Nothing was kept.")
            row = row or SetupRow(show_id=show_id, name=name, setup="")
            row.setup = setup.model_dump_json()
            row.deleted_at, row.used_at = None, now()
            session.add(row)
        return row

    def change_setup(
        self,
        setup_id: int,
        *,
        name: str | None = None,
        setup: Setup | None = None,
        deleted: bool | None = None,
        used: bool = False,
    ) -> SetupRow:
        """Rename, replace, take away or bring back a setup, or note that it was used."""
        with writing(self.engine) as session:
            row = row_of(session, SetupRow, setup_id, _GONE)
            if name is not None and name != row.name:
                same = SetupRow.show_id == row.show_id, SetupRow.name == name
                if session.exec(select(SetupRow).where(*same)).first():
                    raise BadInput(f"There is a setup “{name}” already. Nothing was changed.")
                row.name = name
            if setup is not None:
                row.setup = setup.model_dump_json()
            if deleted is not None:
                row.deleted_at = now() if deleted else None
            if used:
                row.used_at = now()
        return row

    def next_number(self, show_id: int, season: int | None) -> int:
        """The number after the highest of a show, or of one season of it."""
        with reading(self.engine) as session:
            query = select(EpisodeRow.number).where(
                EpisodeRow.show_id == show_id, col(EpisodeRow.deleted_at).is_(None)
            )
            if season is not None:
                query = query.where(EpisodeRow.season == season)
            return 1 + max((number or 0 for number in session.exec(query).all()), default=0)
