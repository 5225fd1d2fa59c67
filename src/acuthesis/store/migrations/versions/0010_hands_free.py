"""Treating without hands: how many touches each thing that was said took, and a practice's quick words for notes."""

from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.execute("ALTER TABLE practice ADD COLUMN quick_words jsonb NOT NULL DEFAULT '[]'")
    op.execute(
        "ALTER TABLE treatment_event ADD COLUMN hands integer NOT NULL "
        "GENERATED ALWAYS AS (coalesce((body ->> 'hands')::integer, 1)) STORED"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE treatment_event DROP COLUMN hands")
    op.execute("ALTER TABLE practice DROP COLUMN quick_words")
