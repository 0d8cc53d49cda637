"""Bringing a book's tables to the form of today."""

from contextlib import suppress
from importlib import resources

from sqlalchemy import Connection, Engine, text

from swaddon.store.engine import WRITES
from swaddon.store.faults import StoreError, faults_told

_LOCK = 7_922_331
"""Any number, the same on every bench: who migrates a shared book holds this lock."""

NEWEST = "0002"


def version_of(connection: Connection) -> str:
    """The form of the tables; empty: there are none."""
    from alembic.migration import MigrationContext

    return MigrationContext.configure(connection).get_current_revision() or ""


def migrate(engine: Engine) -> tuple[str, str]:
    """Bring the tables to the newest form in one transaction; gives the form before and after.

    Raises
    ------
    StoreError
        When the book was written by a newer Swaddon, or cannot be written.
    """
    from alembic import command
    from alembic.config import Config

    with faults_told("The log book could not be opened"):
        with engine.connect() as connection:
            before = version_of(connection)
        if before == NEWEST:
            return before, before
        if before > NEWEST:
            raise StoreError("The log book was written by a newer Swaddon: update this one to use it.")
        with engine.connect().execution_options(**{WRITES: True}) as connection, connection.begin():
            if engine.dialect.name == "postgresql":
                connection.execute(text("SELECT pg_advisory_xact_lock(:lock)"), {"lock": _LOCK})
            if version_of(connection) == NEWEST:
                return before, NEWEST
            config = Config()
            config.set_main_option("script_location", str(resources.files("swaddon.store") / "migrations"))
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
    return before, NEWEST


def is_sound(engine: Engine) -> list[str]:
    """What is wrong with the book's file; empty: nothing. A server looks after its own."""
    if engine.dialect.name != "sqlite":
        with engine.connect() as connection:
            connection.execute(text("SELECT count(*) FROM entries"))
        return []
    with suppress(StoreError), faults_told("The log book could not be checked"), engine.connect() as connection:
        found = [str(row[0]) for row in connection.execute(text("PRAGMA integrity_check"))]
        return [] if found == ["ok"] else found
    return ["the file cannot be read"]
