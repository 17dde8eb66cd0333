"""Long work is done by workers: what was asked, how far it is; and the queue they take it from."""

from __future__ import annotations

from pathlib import Path

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

# the queue's own schema as it was published, so that a newer package changes nothing here
QUEUE = Path(__file__).parents[1] / "procrastinate_3_10.sql"
ACTIVE = "state IN ('waiting', 'running')"
TAKE_BACK = """
DO $$
DECLARE item record;
BEGIN
    FOR item IN SELECT c.oid::regclass AS name FROM pg_class c
        WHERE c.relkind = 'r' AND c.relname LIKE 'procrastinate\\_%'
    LOOP EXECUTE format('DROP TABLE IF EXISTS %s CASCADE', item.name); END LOOP;
    FOR item IN SELECT p.oid::regprocedure AS name FROM pg_proc p
        WHERE p.proname LIKE 'procrastinate\\_%'
    LOOP EXECUTE format('DROP FUNCTION IF EXISTS %s CASCADE', item.name); END LOOP;
    FOR item IN SELECT t.oid::regtype AS name FROM pg_type t
        WHERE t.typname LIKE 'procrastinate\\_%' AND t.typtype IN ('e', 'c')
        AND NOT EXISTS (SELECT 1 FROM pg_class c WHERE c.reltype = t.oid AND c.relkind = 'r')
    LOOP EXECUTE format('DROP TYPE IF EXISTS %s CASCADE', item.name); END LOOP;
END $$;
"""


def _run(script: str) -> None:
    op.get_bind().exec_driver_sql(script.replace("%", "%%"))


def upgrade() -> None:
    """Bring the schema up to this revision."""
    _run(QUEUE.read_text(encoding="utf-8"))
    op.create_table(
        "job",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("payload", sa.Text(), nullable=False),
        sa.Column("person", sa.Text(), nullable=False),
        sa.Column("place", sa.Text(), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=True),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("whole", sa.Integer(), nullable=False),
        sa.Column("attempts", sa.Integer(), nullable=False),
        sa.Column("error", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_job"),
    )
    op.create_index("ix_job_key", "job", ["key"])
    op.create_index("uq_job_active", "job", ["key"], unique=True, postgresql_where=sa.text(ACTIVE))


def downgrade() -> None:
    """Take it back; what was asked can be asked again."""
    op.drop_index("uq_job_active", table_name="job")
    op.drop_index("ix_job_key", table_name="job")
    op.drop_table("job")
    _run(TAKE_BACK)
