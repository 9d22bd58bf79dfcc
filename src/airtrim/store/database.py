"""Opening the database: SQLite in WAL mode, foreign keys on, migrated on the way."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, event
from sqlmodel import Session, create_engine

MIGRATIONS = Path(__file__).parent / "migrations"


def open_engine(path: Path) -> Engine:
    """Open the database at ``path``, making or migrating it."""
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 30})

    @event.listens_for(engine, "connect")
    def _prepare(connection: Any, _record: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, as writers
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        kind = connection.get_execution_options().get("begin", "DEFERRED")
        connection.exec_driver_sql(f"BEGIN {kind}")

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.execution_options(begin="IMMEDIATE").begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
    return engine


@contextmanager
def reading(engine: Engine) -> Iterator[Session]:
    """A session that only reads."""
    with Session(engine, expire_on_commit=False) as session:
        yield session


@contextmanager
def writing(engine: Engine) -> Iterator[Session]:
    """A session that holds the one write lock from its start; all of it is committed, or none."""
    with (
        Session(engine.execution_options(begin="IMMEDIATE"), expire_on_commit=False) as session,
        session.begin(),
    ):
        yield session
