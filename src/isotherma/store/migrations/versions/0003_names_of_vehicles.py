"""A vehicle carries its name, so that thousands are listed without reading what they hold."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision; names are read from the shown states."""
    op.add_column("vehicle", sa.Column("name", sa.Text(), nullable=False, server_default=""))
    op.execute(
        "UPDATE vehicle SET name = coalesce(revision.document::json ->> 'name', '') "
        "FROM revision WHERE revision.id = vehicle.head_id"
    )
    op.alter_column("vehicle", "name", server_default=None)


def downgrade() -> None:
    """Take it back; the names stay in the states."""
    op.drop_column("vehicle", "name")
