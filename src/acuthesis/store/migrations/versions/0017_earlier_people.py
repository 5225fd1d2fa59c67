"""A practice may have what its earlier people's ratings told weigh in beside the judgement of somebody new."""

from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.execute("ALTER TABLE practice ADD COLUMN earlier_people BOOLEAN NOT NULL DEFAULT false")


def downgrade() -> None:
    op.execute("ALTER TABLE practice DROP COLUMN earlier_people")
