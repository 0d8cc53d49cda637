"""What is looked for in the book, as SQL. Whatever was typed goes in as a parameter, never into the text."""

from contextlib import suppress
from typing import Any

from sqlalchemy import ColumnElement, Select, String, and_, bindparam, cast, literal_column, select, text, true
from sqlalchemy.dialects.postgresql import TSQUERY

from swaddon.core.log.days import begins, ends
from swaddon.core.log.query import MOST_WORDS, Query
from swaddon.core.log.words import plain, tokens
from swaddon.store.tables import STANDING, TROUBLES


def condition(query: Query, found_by_words: bool = False) -> ColumnElement[bool]:
    """What a query asks, besides its words.

    ``found_by_words`` keeps SQLite from going by the index of anything else: it would look each run up among the words.
    """

    def of(column: Any) -> Any:
        return literal_column(f"+standing.{column.name}", column.type) if found_by_words else column

    asked: list[Any] = [true()]
    for column, value in (
        (STANDING.c.garment, query.garment),
        (STANDING.c.process, query.process),
        (STANDING.c.artwork_key, query.artwork_key),
    ):
        if value:
            asked.append(of(column) == value)
    if query.artwork:
        asked.append(STANDING.c.artwork.contains(plain(query.artwork), autoescape=True))
    if query.trouble:
        asked.append(of(STANDING.c.n).in_(select(TROUBLES.c.n).where(TROUBLES.c.trouble == query.trouble)))
    with suppress(ValueError):  # what is no day asks for nothing
        if query.since:
            asked.append(of(STANDING.c.at) >= begins(query.since))
    with suppress(ValueError):
        if query.until:
            asked.append(of(STANDING.c.at) < ends(query.until))
    return and_(*asked)


def found(query: Query, is_postgresql: bool, before: int | None = None) -> tuple[Select[Any], Any]:
    """Runs that a query asks for, in no order, and the column of their places."""
    words = tokens(f"{query.words} {query.artwork}")[:MOST_WORDS]
    asked = select(STANDING.c.n, STANDING.c.head, STANDING.c.at, STANDING.c.document).where(
        condition(query, bool(words) and not is_postgresql)
    )
    place: Any = STANDING.c.n
    if words and is_postgresql:
        wanted = " & ".join(f"'{word}':*" for word in words)
        asked = asked.where(literal_column("found_by").op("@@")(cast(bindparam("wanted", wanted, String), TSQUERY)))
    elif words:
        wanted = " ".join(f'"{word}"*' for word in words)
        place = literal_column("standing_words.rowid")
        asked = asked.join_from(STANDING, text("standing_words"), place == STANDING.c.n)
        asked = asked.where(literal_column("standing_words").op("MATCH")(bindparam("wanted", wanted, String)))
    if before is not None:
        asked = asked.where(place < before)
    return asked, place
