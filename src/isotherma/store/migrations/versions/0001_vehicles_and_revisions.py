"""Vehicles and their revisions."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "note",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("value", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_note"),
    )
    op.create_table(
        "vehicle",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("head_id", sa.Integer(), nullable=True),
        sa.Column("previous_id", sa.Integer(), nullable=True),
        sa.Column("tip_id", sa.Integer(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_vehicle"),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("parent_id", sa.Integer(), nullable=True),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("format_version", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["parent_id"], ["revision.id"], name="fk_revision_parent_id_revision"
        ),
        sa.ForeignKeyConstraint(
            ["vehicle_id"], ["vehicle.id"], name="fk_revision_vehicle_id_vehicle"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_revision"),
    )
    op.create_index("ix_revision_vehicle_id", "revision", ["vehicle_id"], unique=False)
    # the two tables point at each other, so these come last
    for column in ("head_id", "previous_id", "tip_id"):
        op.create_foreign_key(
            f"fk_vehicle_{column}_revision", "vehicle", "revision", [column], ["id"]
        )


def downgrade() -> None:
    """Take this revision back."""
    for column in ("head_id", "previous_id", "tip_id"):
        op.drop_constraint(f"fk_vehicle_{column}_revision", "vehicle")
    op.drop_index("ix_revision_vehicle_id", table_name="revision")
    op.drop_table("revision")
    op.drop_table("vehicle")
    op.drop_table("note")
