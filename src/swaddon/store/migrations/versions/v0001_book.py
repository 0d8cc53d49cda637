"""The book: entries and blobs that are only added to, runs as they stand, words to find them by."""

import sqlalchemy as sa
from alembic import op

revision, down_revision, branch_labels, depends_on = "0001", None, None, None

_COUNT = sa.BigInteger().with_variant(sa.Integer, "sqlite")
_ONLY_ADDED = ("entries", "blobs")


def upgrade() -> None:
    """Make the tables."""
    op.create_table(
        "entries",
        sa.Column("n", _COUNT, primary_key=True, autoincrement=True),
        sa.Column("uid", sa.Text, nullable=False, unique=True),
        *(sa.Column(name, sa.Text, nullable=False) for name in ("head", "kind", "at", "bench", "document")),
    )
    op.create_index("ix_entries_head", "entries", ["head"])
    op.create_table(
        "blobs",
        sa.Column("key", sa.Text, primary_key=True),
        sa.Column("media", sa.Text, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "standing",
        sa.Column("head", sa.Text, primary_key=True),
        sa.Column("n", _COUNT, nullable=False, unique=True),
        *(
            sa.Column(name, sa.Text, nullable=False)
            for name in ("at", "garment", "process", "press", "artwork", "artwork_key", "words", "document")
        ),
    )
    for name, columns in (
        ("ix_standing_at", ["at"]),
        ("standing_garment", ["garment", "n"]),
        ("standing_process", ["process", "n"]),
        ("standing_artwork", ["artwork_key", "n"]),
    ):
        op.create_index(name, "standing", columns)
    op.create_table(
        "troubles", sa.Column("trouble", sa.Text, primary_key=True), sa.Column("n", _COUNT, primary_key=True)
    )
    op.create_table("facts", sa.Column("key", sa.Text, primary_key=True), sa.Column("value", sa.Text, nullable=False))
    (_of_sqlite if op.get_bind().dialect.name == "sqlite" else _of_postgresql)()


def _of_sqlite() -> None:
    op.execute("CREATE VIRTUAL TABLE standing_words USING fts5(words, prefix='2 3', tokenize='unicode61')")
    for table in _ONLY_ADDED:
        for act in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{act.lower()} BEFORE {act} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, '{table} are only ever added to'); END"
            )


def _of_postgresql() -> None:
    op.execute(
        "ALTER TABLE standing ADD COLUMN found_by tsvector "
        "GENERATED ALWAYS AS (array_to_tsvector(string_to_array(words, ' '))) STORED"
    )
    op.execute("CREATE INDEX standing_found_by ON standing USING gin (found_by)")
    op.execute(
        "CREATE FUNCTION swaddon_only_added() RETURNS trigger LANGUAGE plpgsql AS "
        "$$ BEGIN RAISE EXCEPTION '% are only ever added to', TG_TABLE_NAME; END $$"
    )
    for table in _ONLY_ADDED:
        op.execute(
            f"CREATE TRIGGER {table}_only_added BEFORE UPDATE OR DELETE ON {table} "
            "FOR EACH STATEMENT EXECUTE FUNCTION swaddon_only_added()"
        )
