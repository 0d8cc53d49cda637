"""The tables as they are now. ``entries`` and ``blobs`` are only ever added to; the rest is made from them."""

from sqlalchemy import BigInteger, Column, Index, Integer, LargeBinary, MetaData, Table, Text

METADATA = MetaData()
_COUNT = BigInteger().with_variant(Integer, "sqlite")

ENTRIES = Table(
    "entries",
    METADATA,
    Column("n", _COUNT, primary_key=True, autoincrement=True),
    Column("uid", Text, nullable=False, unique=True),
    Column("head", Text, nullable=False, index=True),
    Column("kind", Text, nullable=False),
    Column("at", Text, nullable=False),
    Column("bench", Text, nullable=False),
    Column("document", Text, nullable=False),
)
"""What was written, in the order in which the book got it."""

BLOBS = Table(
    "blobs",
    METADATA,
    Column("key", Text, primary_key=True),
    Column("media", Text, nullable=False),
    Column("data", LargeBinary, nullable=False),
)
"""Pictures, job files, artwork: each once, by its SHA-256."""

STANDING = Table(
    "standing",
    METADATA,
    Column("head", Text, primary_key=True),
    Column("n", _COUNT, nullable=False, unique=True),
    Column("at", Text, nullable=False, index=True),
    Column("garment", Text, nullable=False),
    Column("process", Text, nullable=False),
    Column("press", Text, nullable=False),
    Column("artwork", Text, nullable=False),
    Column("artwork_key", Text, nullable=False),
    Column("words", Text, nullable=False),
    Column("document", Text, nullable=False),
    Column("features", LargeBinary),
    Index("standing_garment", "garment", "n"),
    Index("standing_process", "process", "n"),
    Index("standing_artwork", "artwork_key", "n"),
)
"""Each run as it stands after all that was said of it: made from ``entries``, to find and to list."""

TROUBLES = Table(
    "troubles",
    METADATA,
    Column("trouble", Text, primary_key=True),
    Column("n", _COUNT, primary_key=True),
)
"""What went wrong in which run."""

FACTS = Table("facts", METADATA, Column("key", Text, primary_key=True), Column("value", Text, nullable=False))
"""What the book knows of itself."""
