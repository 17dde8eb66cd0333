"""A revision may have a name that a person gave it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.add_column("revision", sa.Column("name", sa.Text(), nullable=True))


def downgrade() -> None:
    """Take it back; names are lost, states are not."""
    op.drop_column("revision", "name")
