"""Opening the database: SQLite in WAL mode, foreign keys on, migrated on the way."""

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util import CommandError
from sqlalchemy import Engine, event
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlmodel import Session, create_engine

from airtrim.errors import CannotStart
from airtrim.store.full import is_full

MIGRATIONS = Path(__file__).parent / "migrations"


def open_engine(path: Path) -> Engine:
    """Open the database at ``path``, making or migrating it; a copy of it as it was before a
    migration is kept beside it. Raises CannotStart with what to do where it cannot be opened."""
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

    try:
        _migrate(engine, path)
    except CommandError as error:
        engine.dispose()
        raise CannotStart(
            f"The data in “{path.parent}” were written by a newer Air Trim. Start that one, or "
            "restore a backup of before. Nothing was changed."
        ) from error
    except OperationalError as error:
        engine.dispose()
        if is_full(error, shutil.disk_usage(path.parent).free):
            raise CannotStart(
                f"The disk of “{path.parent}” is full. Make room and start again."
            ) from error
        raise CannotStart(
            f"The database in “{path.parent}” cannot be written ({error.orig}). Look at who may "
            "write to that folder, and whether anything else has it open."
        ) from error
    except DatabaseError as error:
        engine.dispose()
        raise CannotStart(
            f"The database “{path}” is damaged ({error.orig}). Nothing was changed. Restore the "
            "last backup with “airtrim restore”; recordings lie beside it and are whole."
        ) from error
    return engine


def config() -> Config:
    """How Alembic finds the migrations."""
    found = Config()
    found.set_main_option("script_location", str(MIGRATIONS))
    return found


def _migrate(engine: Engine, path: Path) -> None:
    alembic = config()
    newest = ScriptDirectory.from_config(alembic).get_current_head()
    with engine.connect() as connection:
        stands_at = MigrationContext.configure(connection).get_current_revision()
    if stands_at == newest:
        return
    if stands_at is not None:
        # Not over an older copy: a migration that was broken off is begun again.
        copy = path.with_name(f"{path.stem}-before-{newest}.db")
        if not copy.exists():
            copy_database(path, copy)
    with engine.connect().execution_options(begin="IMMEDIATE") as connection:
        # SQLite changes a table by replacing it. Rows that refer to the table must survive that,
        # so foreign keys are off until all tables are in place. The pragma has no effect within a
        # transaction, so it goes to the driver before the transaction begins.
        raw = connection.connection.driver_connection
        assert raw is not None
        raw.execute("PRAGMA foreign_keys=OFF")
        try:
            with connection.begin():
                alembic.attributes["connection"] = connection
                command.upgrade(alembic, "head")
        finally:
            raw.execute("PRAGMA foreign_keys=ON")


def copy_database(source: Path, target: Path) -> None:
    """A whole copy of a database, made by SQLite itself, also while others write to it."""
    made = target.with_suffix(".part")
    made.unlink(missing_ok=True)
    with _opened(source) as from_, _opened(made) as to:
        from_.backup(to, pages=2000, sleep=0.005)
        # Of one file, so that nothing beside it belongs to it.
        to.execute("PRAGMA journal_mode=DELETE")
    made.replace(target)


@contextmanager
def _opened(path: Path) -> Iterator[sqlite3.Connection]:
    connection = sqlite3.connect(path, timeout=30)
    try:
        yield connection
    finally:
        connection.close()


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
