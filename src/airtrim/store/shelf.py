"""The shelf: shows and episodes."""

from sqlmodel import Session, col, select

from airtrim.errors import NotFound
from airtrim.store.database import reading, writing
from airtrim.store.reserve import freeing
from airtrim.store.rows import Rows, row_of
from airtrim.store.tables import EpisodeRow, ShowRow, now


class Shelf(Rows):
    """Shows, and the episodes in them."""

    def stamps(self) -> dict[int, tuple[int, str]]:
        """The revision of every episode on the shelf, and when it was changed last."""
        columns = col(EpisodeRow.id), col(EpisodeRow.head_id), col(EpisodeRow.updated_at)
        query = select(*columns).where(col(EpisodeRow.deleted_at).is_(None))
        with reading(self.engine) as session:
            rows = session.exec(query).all()
        return {number or 0: (head or 0, at.isoformat()) for number, head, at in rows}

    def shows(self) -> list[tuple[ShowRow, list[EpisodeRow]]]:
        """Every show with its episodes, deleted ones left out."""
        with reading(self.engine) as session:
            shows = session.exec(
                select(ShowRow).where(col(ShowRow.deleted_at).is_(None)).order_by(col(ShowRow.id))
            ).all()
            episodes = session.exec(
                select(EpisodeRow)
                .where(col(EpisodeRow.deleted_at).is_(None))
                .order_by(col(EpisodeRow.id).desc())
            ).all()
        return [(show, [e for e in episodes if e.show_id == show.id]) for show in shows]

    def add_show(self, name: str) -> ShowRow:
        """A new show."""
        self.files.need(0)
        with writing(self.engine) as session:
            show = ShowRow(name=name)
            session.add(show)
        return show

    def change_show(
        self, show_id: int, *, name: str | None = None, deleted: bool | None = None
    ) -> ShowRow:
        """Rename, delete or bring back a show."""
        with freeing(self.engine, self.files) as session:
            show = row_of(session, ShowRow, show_id, "That show is not on the shelf.")
            if name is not None:
                show.name = name
            if deleted is not None:
                show.deleted_at = now() if deleted else None
        return show

    def add_episode(self, show_id: int, title: str) -> EpisodeRow:
        """A new, empty episode."""
        self.files.need(0)
        with writing(self.engine) as session:
            row_of(session, ShowRow, show_id, "That show is not on the shelf.")
            episode = EpisodeRow(show_id=show_id, title=title)
            session.add(episode)
        return episode

    def change_episode(
        self,
        episode_id: int,
        *,
        title: str | None = None,
        deleted: bool | None = None,
        archived: bool | None = None,
    ) -> EpisodeRow:
        """Rename, delete, put away or bring back an episode."""
        with freeing(self.engine, self.files) as session:
            episode = self._episode(session, episode_id)
            if title is not None:
                episode.title = title
            if deleted is not None:
                episode.deleted_at = now() if deleted else None
            if archived is not None:
                episode.archived_at = now() if archived else None
        return episode

    def episode(self, episode_id: int) -> tuple[EpisodeRow, ShowRow]:
        """An episode and its show."""
        with reading(self.engine) as session:
            return self._on_shelf(session, episode_id)

    @classmethod
    def _on_shelf(cls, session: Session, episode_id: int) -> tuple[EpisodeRow, ShowRow]:
        episode = cls._episode(session, episode_id)
        show = session.get(ShowRow, episode.show_id)
        if show is None or episode.deleted_at is not None:
            raise NotFound("That episode is not on the shelf. It may have been deleted.")
        return episode, show

    @staticmethod
    def _episode(session: Session, episode_id: int) -> EpisodeRow:
        return row_of(session, EpisodeRow, episode_id, "That episode is not on the shelf.")

    def touch(self, episode_id: int) -> None:
        """Let browsers know that what they show of an episode is not as it was."""
        with writing(self.engine) as session:
            self._episode(session, episode_id).updated_at = now()
