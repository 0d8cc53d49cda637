"""The log book: entries are added, never changed; runs are read as they stand after all that was said of them."""

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, Engine, Select, delete, func, insert, literal, select, text
from sqlalchemy.dialects import postgresql, sqlite

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Entry, Page, page_of
from swaddon.core.log.likeness import WIDTH, features_of
from swaddon.core.log.query import Query
from swaddon.core.log.words import plain, words_of
from swaddon.core.schema import document
from swaddon.store.engine import WRITES
from swaddon.store.faults import faults_told
from swaddon.store.migrate import migrate
from swaddon.store.query import condition, found
from swaddon.store.tables import BLOBS, ENTRIES, FACTS, STANDING, TROUBLES

Read = Callable[[str], Entry]
"""Makes an entry of its JSON text, checked: the book's texts may be another bench's."""

_FORM = "3"
"""Raised whenever ``_stand`` writes other things than before: the runs are then made anew from the entries."""

_PAGE = 200
_IN_ONE_GO = 500
_FEW = 2000
_WHOLE = (ENTRIES.c.n, ENTRIES.c.uid, ENTRIES.c.head, ENTRIES.c.at, ENTRIES.c.document)
_STANDS = (STANDING.c.n, STANDING.c.head, STANDING.c.at, STANDING.c.document)


@dataclass(frozen=True)
class Blob:
    """A file of the book: what it is (media type), and its bytes."""

    media: str
    data: bytes = field(repr=False)


@dataclass(frozen=True)
class Listed:
    """A run in a list: its place in the book, and how it stands."""

    n: int
    entry: Entry


class LogBook:
    """One book. Every method may be called from any thread; each raises ``StoreError`` with one sentence."""

    def __init__(self, engine: Engine, read: Read) -> None:
        self.engine, self._read = engine, read
        self._is_postgresql = engine.dialect.name == "postgresql"

    def open(self) -> tuple[str, str]:
        """Make or bring up the tables; gives their form before and after."""
        forms = migrate(self.engine)
        with faults_told("The log book could not be opened"):
            with self.engine.connect() as connection:
                form = connection.scalar(select(FACTS.c.value).where(FACTS.c.key == "standing"))
            if form != _FORM:
                self.make_anew()
        return forms

    def close(self) -> None:
        """Let go of all connections."""
        self.engine.dispose()

    def is_empty(self) -> bool:
        """Whether nothing was written yet."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            return connection.scalar(select(ENTRIES.c.n).limit(1)) is None

    # writing

    def add(self, entries: Sequence[Entry], blobs: Mapping[str, Blob]) -> int:
        """Add entries with the files that they speak of, all or none; those that are there already stay as they are.

        Gives how many were new. Raises ``PlanError`` for an entry that could not be read again.
        """
        for entry in entries:
            self._read(_text(entry))
        with faults_told("The log book could not be written"), self._writing() as connection:
            for key, blob in blobs.items():
                connection.execute(self._insert_new(BLOBS, "key"), {"key": key, "media": blob.media, "data": blob.data})
            new = [entry for entry in entries if self._add(connection, entry)]
            for head in dict.fromkeys(entry.head for entry in new):
                self._stand(connection, head)
        return len(new)

    def _add(self, connection: Connection, entry: Entry) -> bool:
        if self._is_postgresql:  # two benches that speak of one run wait for each other
            connection.execute(text("SELECT pg_advisory_xact_lock(hashtext(:head))"), {"head": entry.head})
        row = {
            "uid": entry.uid, "head": entry.head, "kind": entry.kind, "at": entry.at, "bench": entry.bench,
            "document": _text(entry),
        }  # fmt: skip
        new = connection.execute(self._insert_new(ENTRIES, "uid").returning(ENTRIES.c.n), row)
        return new.first() is not None

    def _insert_new(self, table: Any, key: str) -> Any:
        make = postgresql.insert if self._is_postgresql else sqlite.insert
        return make(table).on_conflict_do_nothing(index_elements=[key])

    def _writing(self) -> Any:
        return _Writing(self.engine)

    def _stand(self, connection: Connection, head: str) -> None:
        """Write anew how a run stands."""
        rows = connection.execute(select(*_WHOLE).where(ENTRIES.c.head == head).order_by(ENTRIES.c.n)).all()
        old = connection.scalar(select(STANDING.c.n).where(STANDING.c.head == head))
        if old is not None:
            self._forget(connection, head, old)
        page = page_of(tuple(self._told(row) for row in rows))
        self._insert_standing(connection, [_stands(rows[0].n, page)])

    def _forget(self, connection: Connection, head: str, n: int) -> None:
        connection.execute(delete(STANDING).where(STANDING.c.head == head))
        connection.execute(delete(TROUBLES).where(TROUBLES.c.n == n))
        if not self._is_postgresql:
            connection.execute(text("DELETE FROM standing_words WHERE rowid = :n"), {"n": n})

    def _insert_standing(self, connection: Connection, made: Sequence[tuple[dict[str, Any], Sequence[str]]]) -> None:
        connection.execute(insert(STANDING), [row for row, _ in made])
        troubles = [{"trouble": trouble, "n": row["n"]} for row, found in made for trouble in found]
        if troubles:
            connection.execute(insert(TROUBLES), troubles)
        if not self._is_postgresql:
            words = [{"n": row["n"], "words": row["words"]} for row, _ in made]
            connection.execute(text("INSERT INTO standing_words(rowid, words) VALUES (:n, :words)"), words)

    def make_anew(self) -> None:
        """Make all runs anew from the entries."""
        with faults_told("The log book could not be brought up to date"), self._writing() as connection:
            if self._is_postgresql:
                connection.execute(text("LOCK TABLE standing IN EXCLUSIVE MODE"))
            for table in (STANDING, TROUBLES):
                connection.execute(delete(table))
            if not self._is_postgresql:
                connection.execute(text("DELETE FROM standing_words"))
            heads = [
                (row.head, row.n)
                for row in connection.execute(
                    select(ENTRIES.c.head, func.min(ENTRIES.c.n).label("n")).group_by(ENTRIES.c.head)
                )
            ]
            for start in range(0, len(heads), _IN_ONE_GO):
                part = dict(heads[start : start + _IN_ONE_GO])
                self._insert_standing(connection, [
                    _stands(part[head], page_of(entries)) for head, entries in self._by_head(connection, tuple(part))
                ])  # fmt: skip
            connection.execute(delete(FACTS).where(FACTS.c.key == "standing"))
            connection.execute(insert(FACTS), {"key": "standing", "value": _FORM})

    def _by_head(self, connection: Connection, heads: Sequence[str]) -> Iterator[tuple[str, tuple[Entry, ...]]]:
        found: dict[str, list[Entry]] = {}
        for row in connection.execute(select(*_WHOLE).where(ENTRIES.c.head.in_(heads)).order_by(ENTRIES.c.n)):
            found.setdefault(row.head, []).append(self._told(row))
        for head, entries in found.items():
            yield head, tuple(entries)

    # reading

    def find(self, query: Query, before: int | None = None, most: int = _PAGE) -> list[Listed]:
        """Runs as they stand, those written last first; ``before``: only those written before this place."""
        asked, place = found(query, self._is_postgresql, before)
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            if self._is_postgresql and query.has_words:
                self._choose_way(connection, asked)
            rows = connection.execute(asked.order_by(place.desc()).limit(most)).all()
        return [Listed(row.n, self._told(row)) for row in rows]

    def _told(self, row: Any) -> Entry:
        """An entry of a row; one that cannot be read here stands as a note that says so."""
        try:
            return self._read(row.document)
        except PlanError as error:
            uid = getattr(row, "uid", row.head)
            return Entry(uid, row.head, "note", row.at, note=f"This entry cannot be read here. {error}")

    def _choose_way(self, connection: Connection, asked: Select[Any]) -> None:
        """Let few hits be fetched by their words, and the newest of many by reading the book backwards.

        PostgreSQL cannot tell which it will be: it does not know how many words begin so.
        """
        few = asked.with_only_columns(STANDING.c.n).limit(_FEW + 1).subquery()
        connection.execute(text("SET LOCAL enable_seqscan = off"))
        connection.execute(text("SET LOCAL enable_indexscan = off"))
        hits = connection.scalar(select(func.count()).select_from(few)) or 0
        if hits > _FEW:
            connection.execute(text("SET LOCAL enable_indexscan = on"))
            connection.execute(text("SET LOCAL enable_bitmapscan = off"))

    def count(self, query: Query, most: int = 10_000) -> int:
        """How many runs there are; no further than ``most`` is counted."""
        asked, _ = found(query, self._is_postgresql)
        inner = asked.with_only_columns(STANDING.c.n).limit(most).subquery()
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            return int(connection.scalar(select(func.count()).select_from(inner)) or 0)

    def page(self, head: str) -> Page | None:
        """A run with all that was said of it."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            rows = connection.execute(select(*_WHOLE).where(ENTRIES.c.head == head).order_by(ENTRIES.c.n)).all()
        return page_of(tuple(self._told(row) for row in rows)) if rows else None

    def head_like(self, start: str) -> tuple[str, ...]:
        """Runs whose name begins so; at most a few."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            rows = connection.execute(
                select(STANDING.c.head).where(STANDING.c.head.startswith(start, autoescape=True)).limit(3)
            ).all()
        return tuple(row.head for row in rows)

    def by_artwork(self, key: str, order: str) -> Entry | None:
        """The run written last whose artwork's key begins so, and that is of an order of that name."""
        if not key:
            return None
        asked = select(*_STANDS).where(STANDING.c.artwork_key.startswith(key, autoescape=True))
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            rows = connection.execute(asked.order_by(STANDING.c.n.desc()).limit(_PAGE)).all()
        entries = [self._told(row) for row in rows]
        return next((item for item in entries if item.ordered and item.ordered.order.startswith(order)), None)

    def blob(self, key: str) -> Blob | None:
        """A file of the book."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            row = connection.execute(select(BLOBS.c.media, BLOBS.c.data).where(BLOBS.c.key == key)).one_or_none()
        return None if row is None else Blob(row.media, bytes(row.data))

    def knows(self, keys: Iterable[str]) -> set[str]:
        """Which of some files the book has already."""
        asked = list(keys)
        known: set[str] = set()
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            for start in range(0, len(asked), _IN_ONE_GO):
                part = asked[start : start + _IN_ONE_GO]
                known.update(connection.scalars(select(BLOBS.c.key).where(BLOBS.c.key.in_(part))))
        return known

    def choices(self) -> dict[str, tuple[str, ...]]:
        """Garments, processes, presses and troubles that there are, to choose from."""
        out = {}
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            for key, column in (("garment", STANDING.c.garment), ("process", STANDING.c.process)):
                words = connection.scalars(_distinct(column)).all()
                out[key] = tuple(word for word in words if word)
            out["trouble"] = tuple(connection.scalars(_distinct(TROUBLES.c.trouble)))
        return out

    def ended_in(self, month: str) -> Iterator[Entry]:
        """Runs as they stand that were written in a month, ``YYYY-MM``."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            rows = connection.execute(select(*_STANDS).where(condition(
                Query(since=month, until=month)
            )).order_by(STANDING.c.n)).all()  # fmt: skip
        for row in rows:
            yield self._told(row)

    def features(self, after: int = 0) -> tuple[NDArray[np.int64], list[str], NDArray[np.float32]]:
        """Places, processes and numbers of likeness of the runs after a place."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            rows = connection.execute(
                select(STANDING.c.n, STANDING.c.process, STANDING.c.features)
                .where(STANDING.c.n > after, STANDING.c.features.is_not(None))
                .order_by(STANDING.c.n)
            ).all()
        held = np.frombuffer(b"".join(bytes(row.features) for row in rows), np.float32)
        return (
            np.array([row.n for row in rows], np.int64),
            [row.process for row in rows],
            held.reshape(len(rows), WIDTH),
        )

    def at_places(self, places: Sequence[int]) -> list[Listed]:
        """Runs by their places in the book, in the order asked for."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            rows = connection.execute(select(*_STANDS).where(STANDING.c.n.in_([int(n) for n in places]))).all()
        found = {row.n: Listed(row.n, self._told(row)) for row in rows}
        return [found[n] for n in places if n in found]

    def everything(self, after: int = 0) -> Iterator[tuple[int, Entry]]:
        """All entries after a place, in the order in which the book got them."""
        while True:
            with faults_told("The log book could not be read"), self.engine.connect() as connection:
                rows = connection.execute(
                    select(*_WHOLE).where(ENTRIES.c.n > after).order_by(ENTRIES.c.n).limit(_PAGE)
                ).all()
            if not rows:
                return
            for row in rows:
                yield row.n, self._told(row)
            after = rows[-1].n

    def blob_keys(self) -> list[str]:
        """All files of the book."""
        with faults_told("The log book could not be read"), self.engine.connect() as connection:
            return list(connection.scalars(select(BLOBS.c.key).order_by(BLOBS.c.key)))


class _Writing:
    """A transaction of a writer."""

    def __init__(self, engine: Engine) -> None:
        self._connection = engine.connect().execution_options(**{WRITES: True})

    def __enter__(self) -> Connection:
        self._transaction = self._connection.begin()
        return self._connection

    def __exit__(self, kind: Any, *_what: Any) -> None:
        try:
            if kind is None:
                self._transaction.commit()
            else:
                self._transaction.rollback()
        finally:
            self._connection.close()


def _stands(n: int, page: Page) -> tuple[dict[str, Any], tuple[str, ...]]:
    """The row of a run as it stands, and its troubles."""
    entry, ordered_ = page.entry, page.entry.ordered
    features = features_of(entry)
    return {
        "head": entry.head, "n": n, "at": entry.at,
        "garment": "" if ordered_ is None else ordered_.garment,
        "process": "" if ordered_ is None else ordered_.process,
        "press": "" if ordered_ is None else ordered_.press,
        "artwork": "" if ordered_ is None else plain(ordered_.artwork),
        "artwork_key": "" if ordered_ is None else ordered_.artwork_key,
        "words": words_of(entry),
        "document": _text(entry),
        "features": None if features is None else features.tobytes(),
    }, page.troubles  # fmt: skip


def _text(entry: Entry) -> str:
    return json.dumps(document(entry), ensure_ascii=False, separators=(",", ":"))


def _distinct(column: Any) -> Any:
    """The values of an indexed column, each found by a step in its index instead of reading all rows."""
    first = select(func.min(column).label("value")).cte("steps", recursive=True)
    following = select(func.min(column)).where(column > first.c.value).scalar_subquery()
    steps = first.union_all(select(following).where(first.c.value.is_not(None)))
    return select(steps.c.value).where(steps.c.value.is_not(None)).limit(literal(500, literal_execute=True))
