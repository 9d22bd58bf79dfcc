"""Chains that a host kept of a track's sound, to use again."""

from pydantic import TypeAdapter
from sqlmodel import col, select

from airtrim.core.timeline.chain import Chain
from airtrim.store.database import reading, writing
from airtrim.store.rows import Rows, row_of
from airtrim.store.tables import ChainRow, now

_CHAIN = TypeAdapter(Chain)


class Chains(Rows):
    """Chains under names."""

    def chains(self) -> list[tuple[int, str, Chain]]:
        """What hosts kept of a track's sound to use again: number, name, chain."""
        with reading(self.engine) as session:
            rows = session.exec(select(ChainRow).order_by(col(ChainRow.name))).all()
        kept = [row for row in rows if row.deleted_at is None]
        return [(row.id or 0, row.name, _CHAIN.validate_json(row.chain)) for row in kept]

    def keep_chain(self, name: str, chain: Chain) -> int:
        """Keep a chain under a name; one of that name is replaced."""
        self.files.need(0)
        with writing(self.engine) as session:
            row = session.exec(select(ChainRow).where(ChainRow.name == name)).first()
            row = row or ChainRow(name=name, chain="")
            row.chain = _CHAIN.dump_json(chain).decode()
            row.deleted_at = None
            session.add(row)
            session.flush()
            return row.id or 0

    def remove_chain(self, chain_id: int, *, back: bool = False) -> None:
        """Take one away, or bring it ``back``."""
        with writing(self.engine) as session:
            row = row_of(session, ChainRow, chain_id, "That chain is not kept any more.")
            row.deleted_at = None if back else now()
            session.add(row)
