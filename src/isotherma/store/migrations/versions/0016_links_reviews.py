"""Links without account, when they were opened, what licensed people signed."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "link",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=True),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ends_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("revoked_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["vehicle_id"], ["vehicle.id"], name="fk_link_vehicle_id_vehicle"),
        sa.ForeignKeyConstraint(
            ["revision_id"], ["revision.id"], name="fk_link_revision_id_revision"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_link"),
        sa.UniqueConstraint("token", name="uq_link_token"),
    )
    op.create_index("ix_link_vehicle_id", "link", ["vehicle_id"])
    op.create_table(
        "link_use",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("link_id", sa.Integer(), nullable=False),
        sa.Column("browser", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["link_id"], ["link.id"], name="fk_link_use_link_id_link"),
        sa.PrimaryKeyConstraint("id", name="pk_link_use"),
    )
    op.create_index("ix_link_use_link_id", "link_use", ["link_id"])
    op.create_table(
        "review",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("link_id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=False),
        sa.Column("digest", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("trade", sa.Text(), nullable=False),
        sa.Column("licence", sa.Text(), nullable=False),
        sa.Column("signed_on", sa.Text(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("answer", sa.Text(), nullable=False),
        sa.Column("signed_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("closed_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["link_id"], ["link.id"], name="fk_review_link_id_link"),
        sa.ForeignKeyConstraint(
            ["vehicle_id"], ["vehicle.id"], name="fk_review_vehicle_id_vehicle"
        ),
        sa.ForeignKeyConstraint(
            ["revision_id"], ["revision.id"], name="fk_review_revision_id_revision"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_review"),
    )
    op.create_index("ix_review_vehicle_id", "review", ["vehicle_id"])


def downgrade() -> None:
    """Take it back; links no longer open then, and reviews are lost."""
    for name in ("review", "link_use", "link"):
        op.drop_table(name)
