"""What is done of a plan: a row for each task that was ticked or left out."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "task_done",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("task_id", sa.Text(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("person", sa.Text(), nullable=False),
        sa.Column("source", sa.Text(), nullable=False),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["vehicle_id"], ["vehicle.id"], name="fk_task_done_vehicle_id_vehicle"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_task_done"),
        sa.UniqueConstraint("vehicle_id", "variant_id", "task_id", name="uq_task_done_vehicle_id"),
    )


def downgrade() -> None:
    """Take it back; what was done is no longer known then."""
    op.drop_table("task_done")
