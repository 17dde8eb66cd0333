"""Classes of parts that somebody keeps for every vehicle."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "own_class",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("format_version", sa.Integer(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_own_class"),
        sa.UniqueConstraint("kind", "name", name="uq_own_class_kind"),
    )


def downgrade() -> None:
    """Take it back; a file of them can be kept before."""
    op.drop_table("own_class")
