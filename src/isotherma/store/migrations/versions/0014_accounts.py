"""Accounts, browsers that are signed in, codes that work once, wrong guesses."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the schema up to this revision."""
    op.create_table(
        "account",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("password", sa.Text(), nullable=False),
        sa.Column("admin", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_account"),
        sa.UniqueConstraint("key", name="uq_account_key"),
    )
    op.create_table(
        "sign_in",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=True),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ends_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name="fk_sign_in_account_id_account"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_sign_in"),
        sa.UniqueConstraint("token", name="uq_sign_in_token"),
    )
    op.create_index("ix_sign_in_account_id", "sign_in", ["account_id"])
    op.create_table(
        "invitation",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ends_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_invitation"),
        sa.UniqueConstraint("token", name="uq_invitation_token"),
    )
    op.create_table(
        "attempt",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("what", sa.Text(), nullable=False),
        sa.Column("address", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_attempt"),
    )
    op.create_index("ix_attempt_what", "attempt", ["what", "at"])
    op.create_index("ix_attempt_address", "attempt", ["address", "at"])


def downgrade() -> None:
    """Take it back; nobody can sign in then."""
    for name in ("attempt", "invitation", "sign_in", "account"):
        op.drop_table(name)
