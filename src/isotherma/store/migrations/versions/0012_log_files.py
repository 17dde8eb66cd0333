"""Files of loggers: until it is said what their columns mean, and those that were thinned."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "log_file",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.Column("rows", sa.Integer(), nullable=False),
        sa.Column("imported", sa.Boolean(), nullable=False),
        sa.Column("added_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["vehicle_id"], ["vehicle.id"], name="fk_log_file_vehicle_id_vehicle"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_log_file"),
    )
    op.create_index("ix_log_file_vehicle_id", "log_file", ["vehicle_id", "variant_id"])


def downgrade() -> None:
    """Take it back; files that were kept are gone then, what was read of them stays."""
    op.drop_table("log_file")
