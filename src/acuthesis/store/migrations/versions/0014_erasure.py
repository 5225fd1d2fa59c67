"""Erasure with seven days to take it back: the record is sealed meanwhile, and erased by a job when they are over."""

from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.execute(
        "ALTER TABLE person ADD COLUMN erase_at timestamptz, ADD COLUMN erase_reason VARCHAR NOT NULL DEFAULT ''"
    )
    op.execute("ALTER TABLE person ADD COLUMN erase_by UUID")
    op.execute("CREATE INDEX ix_person_erase_at ON person (erase_at) WHERE erase_at IS NOT NULL")


def downgrade() -> None:
    op.execute("ALTER TABLE person DROP COLUMN erase_at, DROP COLUMN erase_reason, DROP COLUMN erase_by")
