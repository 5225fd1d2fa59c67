"""Single answers that were added to a screening are told from a whole one: what was asked before gets no younger."""

from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.execute("ALTER TABLE screening ADD COLUMN in_full BOOLEAN NOT NULL DEFAULT true")


def downgrade() -> None:
    op.execute("ALTER TABLE screening DROP COLUMN in_full")
