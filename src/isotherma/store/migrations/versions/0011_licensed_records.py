"""What a licensed person says of a test, beside the task that is done by it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.add_column("task_done", sa.Column("record", sa.Text(), nullable=True))


def downgrade() -> None:
    """Take it back; what licensed people said is not known then."""
    op.drop_column("task_done", "record")
