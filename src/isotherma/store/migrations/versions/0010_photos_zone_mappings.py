"""Photographs; the zone of a vehicle's calendar; what columns and channels mean."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "photo",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("about", sa.Text(), nullable=False),
        sa.Column("media_type", sa.Text(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.Column("width_px", sa.Integer(), nullable=False),
        sa.Column("height_px", sa.Integer(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("person", sa.Text(), nullable=False),
        sa.Column("added_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["vehicle_id"], ["vehicle.id"], name="fk_photo_vehicle_id_vehicle"),
        sa.PrimaryKeyConstraint("id", name="pk_photo"),
    )
    op.create_index("ix_photo_vehicle_id", "photo", ["vehicle_id", "variant_id", "about"])
    op.create_table(
        "mapping",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["vehicle_id"], ["vehicle.id"], name="fk_mapping_vehicle_id_vehicle"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_mapping"),
        sa.UniqueConstraint(
            "vehicle_id", "variant_id", "kind", "name", name="uq_mapping_vehicle_id"
        ),
    )
    op.add_column("vehicle", sa.Column("time_zone", sa.Text(), nullable=True))


def downgrade() -> None:
    """Take it back; photographs and zones are no longer known then."""
    op.drop_column("vehicle", "time_zone")
    op.drop_table("mapping")
    op.drop_table("photo")
