"""Job rows."""

from datetime import timedelta
from uuid import uuid4

from sqlmodel import Session, col, select

from airtrim.errors import NotFound
from airtrim.store.database import reading, writing
from airtrim.store.reserve import freeing
from airtrim.store.rows import row_of
from airtrim.store.shelf import Shelf
from airtrim.store.tables import UNFINISHED, EpisodeRow, JobRow, ShowRow, now

_NO_SHOW = "That show is not on the shelf."
_UNKNOWN = "That work is not known here."


class Jobs(Shelf):
    """Work in the background, as far as it is noted."""

    def add_job(self, kind: str, episode_id: int, params: str, job_id: str | None = None) -> JobRow:
        """A row for new work, queued; with a ``job_id`` that is there already, that row."""
        self.files.need(0)
        with writing(self.engine) as session:
            known = session.get(JobRow, job_id) if job_id else None
            if known is not None:
                return known
            self._episode(session, episode_id)
            return self.add_job_in(session, kind, episode_id, params, job_id)

    @staticmethod
    def add_job_in(
        session: Session, kind: str, episode_id: int, params: str, job_id: str | None = None
    ) -> JobRow:
        """The same within a transaction."""
        job = JobRow(id=job_id or uuid4().hex, kind=kind, episode_id=episode_id, params=params)
        session.add(job)
        return job

    def job(self, job_id: str) -> JobRow:
        """One job."""
        with reading(self.engine) as session:
            return row_of(session, JobRow, job_id, _UNKNOWN)

    def remove_job(self, job_id: str) -> None:
        """Forget a job that has ended."""
        with writing(self.engine) as session:
            session.delete(row_of(session, JobRow, job_id, "There is no such job."))

    def jobs(self, episode_id: int | None = None, states: tuple[str, ...] = ()) -> list[JobRow]:
        """Jobs, oldest first."""
        query = select(JobRow).order_by(col(JobRow.created_at))
        if episode_id is not None:
            query = query.where(JobRow.episode_id == episode_id)
        if states:
            query = query.where(col(JobRow.state).in_(states))
        with reading(self.engine) as session:
            return list(session.exec(query).all())

    def jobs_of_show(self, show_id: int, *kinds: str) -> list[tuple[JobRow, EpisodeRow]]:
        """Jobs of some kinds of all episodes of a show that are on the shelf, oldest first, each
        with its episode."""
        query = (
            select(JobRow, EpisodeRow)
            .join(EpisodeRow, col(EpisodeRow.id) == JobRow.episode_id)
            .where(EpisodeRow.show_id == show_id, col(EpisodeRow.deleted_at).is_(None))
            .where(col(JobRow.kind).in_(kinds))
            .order_by(col(JobRow.created_at))
        )
        with reading(self.engine) as session:
            show = row_of(session, ShowRow, show_id, _NO_SHOW)
            if show.deleted_at is not None:
                raise NotFound(_NO_SHOW)
            return [(job, episode) for job, episode in session.exec(query)]

    def recent_jobs(self) -> list[JobRow]:
        """Jobs that changed in the last minute, and all that have not ended."""
        since = now() - timedelta(minutes=1)
        query = select(JobRow).where(
            col(JobRow.state).in_(UNFINISHED) | (col(JobRow.updated_at) > since)
        )
        with reading(self.engine) as session:
            return list(session.exec(query).all())

    def begin_job(self, job_id: str) -> JobRow | None:
        """Take a queued job to be run, in one step, so that no two workers run it; None where it
        does not wait. One that was cancelled while it waited ends here."""
        with writing(self.engine) as session:
            job = session.get(JobRow, job_id)
            if job is None or job.state != "queued":
                return None
            if job.cancel:
                job.state, job.doing = "cancelled", "Cancelled"
            else:
                job.state, job.doing = "running", "Starting"
                job.attempts += 1
            job.updated_at = now()
            session.add(job)
        return None if job.cancel else job

    def stop_job(self, job_id: str) -> JobRow:
        """Ask a job to stop, in one step; one that is not under way has ended with that."""
        with freeing(self.engine, self.files) as session:
            job = row_of(session, JobRow, job_id, _UNKNOWN)
            job.cancel = True
            if job.state in ("queued", "interrupted"):
                job.state, job.doing = "cancelled", "Cancelled"
            job.updated_at = now()
        return job

    def give_back_jobs(self) -> None:
        """Put jobs that were running back in line, as if they had not been begun: the worker was
        told to stop, and did."""
        with writing(self.engine) as session:
            for job in session.exec(select(JobRow).where(JobRow.state == "running")).all():
                job.state, job.doing = "queued", "Waiting"
                job.attempts = max(0, job.attempts - 1)
                job.updated_at = now()

    def update_job(self, job_id: str, **values: object) -> JobRow:
        """Change columns of a job."""
        with writing(self.engine) as session:
            job = row_of(session, JobRow, job_id, _UNKNOWN)
            for name, value in values.items():
                setattr(job, name, value)
            job.updated_at = now()
        return job
