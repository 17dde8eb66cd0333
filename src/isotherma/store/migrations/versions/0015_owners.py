"""Whose vehicles and classes they are, who made a change, with whom a vehicle is shared."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.add_column("vehicle", sa.Column("owner_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_vehicle_owner_id_account", "vehicle", "account", ["owner_id"], ["id"])
    op.create_index("ix_vehicle_owner_id", "vehicle", ["owner_id"])
    op.add_column("revision", sa.Column("account_id", sa.Integer(), nullable=True))
    op.create_foreign_key(
        "fk_revision_account_id_account", "revision", "account", ["account_id"], ["id"]
    )
    op.add_column("revision", sa.Column("person", sa.Text(), nullable=False, server_default=""))
    op.alter_column("revision", "person", server_default=None)
    op.add_column("own_class", sa.Column("owner_id", sa.Integer(), nullable=True))
    op.create_foreign_key(
        "fk_own_class_owner_id_account", "own_class", "account", ["owner_id"], ["id"]
    )
    op.drop_constraint("uq_own_class_kind", "own_class")
    op.create_unique_constraint(
        "uq_own_class_owner_id",
        "own_class",
        ["owner_id", "kind", "name"],
        postgresql_nulls_not_distinct=True,
    )
    op.create_table(
        "share",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=False),
        sa.Column("may", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["vehicle_id"], ["vehicle.id"], name="fk_share_vehicle_id_vehicle"),
        sa.ForeignKeyConstraint(["account_id"], ["account.id"], name="fk_share_account_id_account"),
        sa.PrimaryKeyConstraint("id", name="pk_share"),
        sa.UniqueConstraint("vehicle_id", "account_id", name="uq_share_vehicle_id"),
    )
    op.create_index("ix_share_account_id", "share", ["account_id"])


def downgrade() -> None:
    """Take it back; everything is everybody's then, of two classes of one name one is kept."""
    op.drop_table("share")
    op.drop_constraint("uq_own_class_owner_id", "own_class")
    op.execute(
        "DELETE FROM own_class a USING own_class b "
        "WHERE a.kind = b.kind AND a.name = b.name AND a.id > b.id"
    )
    op.create_unique_constraint("uq_own_class_kind", "own_class", ["kind", "name"])
    op.drop_column("own_class", "owner_id")
    op.drop_column("revision", "person")
    op.drop_column("revision", "account_id")
    op.drop_column("vehicle", "owner_id")
