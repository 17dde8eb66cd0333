"""Settings of a task as they were found, and as they were left."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    for name in ("as_found", "as_left"):
        op.add_column("task_done", sa.Column(name, sa.Text(), nullable=False, server_default=""))
        op.alter_column("task_done", name, server_default=None)


def downgrade() -> None:
    """Take it back; how settings were found and left is not known then."""
    op.drop_column("task_done", "as_left")
    op.drop_column("task_done", "as_found")
