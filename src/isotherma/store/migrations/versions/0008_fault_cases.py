"""Cases of the fault finder: what was seen, read, tried and changed, open or ended."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "fault_case",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("outcome", sa.Text(), nullable=False),
        sa.Column("begun_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["vehicle_id"], ["vehicle.id"], name="fk_fault_case_vehicle_id_vehicle"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_fault_case"),
    )
    op.create_index("ix_fault_case_vehicle_id", "fault_case", ["vehicle_id", "variant_id"])


def downgrade() -> None:
    """Take it back; what was found is no longer known then."""
    op.drop_table("fault_case")
