"""Results are kept by content, so that workers and restarts share them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "kept",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_kept"),
    )
    op.create_index("ix_kept_used_at", "kept", ["used_at"])


def downgrade() -> None:
    """Take it back; everything kept can be computed again."""
    op.drop_index("ix_kept_used_at", table_name="kept")
    op.drop_table("kept")
