"""Destinations of shows, and what was handed over to them."""

from datetime import datetime

from sqlmodel import col, select

from airtrim.errors import BadInput, NotFound
from airtrim.store.database import reading, writing
from airtrim.store.rows import Rows, row_of
from airtrim.store.tables import DestinationRow, EpisodeRow, HandOverRow, ShowRow, now

MOST_DESTINATIONS = 20
_GONE = "That destination is not kept any more."
_CALLED_OFF = "It was called off."
THERE = ("draft", "scheduled", "publishing", "published", "overdue")


class Handing(Rows):
    """Where files go, and how far each is."""

    def destinations(self, show_id: int) -> list[DestinationRow]:
        """Those of a show, oldest first."""
        with reading(self.engine) as session:
            row_of(session, ShowRow, show_id, "That show is not on the shelf.")
            query = select(DestinationRow).where(
                DestinationRow.show_id == show_id, col(DestinationRow.deleted_at).is_(None)
            )
            return list(session.exec(query.order_by(col(DestinationRow.id))).all())

    def destination(self, destination_id: int) -> DestinationRow:
        """One of them. Raises NotFound where it was taken away."""
        with reading(self.engine) as session:
            row = row_of(session, DestinationRow, destination_id, _GONE)
        if row.deleted_at is not None:
            raise NotFound(_GONE)
        return row

    def any_destination(self, destination_id: int) -> DestinationRow:
        """One of them, also where it was taken away."""
        with reading(self.engine) as session:
            return row_of(session, DestinationRow, destination_id, _GONE)

    def keep_destination(self, show_id: int, name: str, way: str, address: str) -> DestinationRow:
        """Add one. Raises BadInput where its name is taken, or there are too many."""
        with writing(self.engine) as session:
            row_of(session, ShowRow, show_id, "That show is not on the shelf.")
            query = select(DestinationRow).where(
                DestinationRow.show_id == show_id, col(DestinationRow.deleted_at).is_(None)
            )
            rows = session.exec(query).all()
            if any(row.name == name for row in rows):
                raise BadInput(f"There is a destination “{name}” already. Nothing was kept.")
            if len(rows) >= MOST_DESTINATIONS:
                raise BadInput(f"A show has {MOST_DESTINATIONS} destinations at most.")
            made = DestinationRow(show_id=show_id, name=name, way=way, address=address)
            session.add(made)
        return made

    def remove_destination(self, destination_id: int, *, deleted: bool = True) -> DestinationRow:
        """Take one away, or bring it back."""
        with writing(self.engine) as session:
            row = row_of(session, DestinationRow, destination_id, _GONE)
            row.deleted_at = now() if deleted else None
        return row

    def hand_overs(self, episode_id: int) -> list[HandOverRow]:
        """Those of an episode, newest first."""
        with reading(self.engine) as session:
            query = select(HandOverRow).where(HandOverRow.episode_id == episode_id)
            return list(session.exec(query.order_by(col(HandOverRow.created_at).desc())).all())

    def hand_over(self, hand_over_id: str) -> HandOverRow:
        """One of them. Raises NotFound."""
        with reading(self.engine) as session:
            return row_of(session, HandOverRow, hand_over_id, "Nothing was handed over there.")

    def free_hand_overs(self, state: str, named: set[str], to: str) -> None:
        """Set rows in ``state`` that no job in ``named`` works on to the state ``to``: their job
        was cancelled or lost. A scheduled draft stays scheduled."""
        with writing(self.engine) as session:
            query = select(HandOverRow).where(HandOverRow.state == state)
            for row in session.exec(query).all():
                if row.id in named:
                    continue
                if state == "publishing" and row.publish_at is not None:
                    row.state = "scheduled"
                else:
                    row.state, row.error = to, _CALLED_OFF

    def begin_hand_over(self, row: HandOverRow, *, again: bool) -> HandOverRow:
        """Note that a file is on its way. Raises BadInput where the same revision is there, or on
        its way there, already, unless it is meant to go ``again``."""
        with writing(self.engine) as session:
            query = select(HandOverRow).where(
                HandOverRow.episode_id == row.episode_id,
                HandOverRow.destination_id == row.destination_id,
            )
            for other in session.exec(query).all():
                if other.state == "sending":
                    raise BadInput("A file of this episode is on its way there already.")
                if other.state in THERE and other.revision == row.revision and not again:
                    raise BadInput(
                        "This state of the episode was handed over there already. Say that it is "
                        "meant to go once more, if it is."
                    )
            session.add(row)
        return row

    def note_hand_over(self, hand_over_id: str, **values: object) -> HandOverRow:
        """Note how far it is."""
        with writing(self.engine) as session:
            row = row_of(session, HandOverRow, hand_over_id, "Nothing was handed over there.")
            for name, value in values.items():
                setattr(row, name, value)
            row.updated_at = now()
        return row

    def due(self, at: datetime) -> list[tuple[HandOverRow, bool]]:
        """Scheduled drafts whose time to be published, or to be tried again, has come; and whether
        the episode of each is in the bin."""
        with reading(self.engine) as session:
            query = (
                select(HandOverRow, EpisodeRow.deleted_at, ShowRow.deleted_at)
                .join(EpisodeRow, col(EpisodeRow.id) == HandOverRow.episode_id)
                .join(ShowRow, col(ShowRow.id) == EpisodeRow.show_id)
                .where(HandOverRow.state == "scheduled", col(HandOverRow.publish_at) <= at)
                .where(col(HandOverRow.retry_at).is_(None) | (col(HandOverRow.retry_at) <= at))
            )
            return [(row, bool(gone or show_gone)) for row, gone, show_gone in session.exec(query)]

    def begin_again(self, hand_over_id: str) -> HandOverRow:
        """Note that a failed delivery is sent again, in one step, so that it is sent once. Raises
        BadInput where it has not failed."""
        with writing(self.engine) as session:
            row = row_of(session, HandOverRow, hand_over_id, "Nothing was handed over there.")
            if row.state != "failed":
                raise BadInput(
                    "That file is on its way already."
                    if row.state == "sending"
                    else "That file has arrived already. Nothing was sent."
                )
            row.state, row.error, row.updated_at = "sending", None, now()
        return row
