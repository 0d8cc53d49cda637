"""Numbers by which prints are compared, so that a run finds those like it; they are made from the entries."""

import sqlalchemy as sa
from alembic import op

revision, down_revision, branch_labels, depends_on = "0002", "0001", None, None


def upgrade() -> None:
    """Make room for them."""
    op.add_column("standing", sa.Column("features", sa.LargeBinary))
