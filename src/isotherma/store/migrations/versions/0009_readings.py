"""The log: readings in sessions."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "reading",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("session", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("time_s", sa.Float(), nullable=False),
        sa.Column("quantity", sa.Text(), nullable=False),
        sa.Column("part", sa.Text(), nullable=True),
        sa.Column("value", sa.Float(), nullable=False),
        sa.Column("unsure", sa.Float(), nullable=True),
        sa.Column("from_c", sa.Float(), nullable=True),
        sa.Column("to_c", sa.Float(), nullable=True),
        sa.Column("method", sa.Text(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("person", sa.Text(), nullable=False),
        sa.Column("sent", sa.Text(), nullable=True),
        sa.Column("noted_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["vehicle_id"], ["vehicle.id"], name="fk_reading_vehicle_id_vehicle"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_reading"),
        sa.UniqueConstraint("vehicle_id", "variant_id", "sent", name="uq_reading_vehicle_id"),
    )
    op.create_index("ix_reading_vehicle_id", "reading", ["vehicle_id", "variant_id", "session"])


def downgrade() -> None:
    """Take it back; what was read is no longer known then."""
    op.drop_table("reading")
