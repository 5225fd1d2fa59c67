"""What a hand found on a person, a practice's own points and areas, and the texts that names are searched in."""

from alembic import op

from acuthesis.store.migrations.rights import grant, guard

revision = "0002"
down_revision = "0001"

TABLES = """
CREATE TABLE finding (
    id uuid CONSTRAINT pk_finding PRIMARY KEY,
    practice_id uuid NOT NULL,
    person_id uuid NOT NULL,
    entry varchar NOT NULL,
    side varchar NOT NULL CONSTRAINT ck_finding_side CHECK (side IN ('left', 'right')),
    offset_mm jsonb NOT NULL DEFAULT '{}',
    soreness integer CONSTRAINT ck_finding_soreness CHECK (soreness BETWEEN 0 AND 10),
    texture varchar,
    note varchar NOT NULL DEFAULT '',
    at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT fk_finding_person_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) ON DELETE CASCADE
);
CREATE INDEX ix_finding_person_id ON finding (person_id);
CREATE TABLE own_entry (
    id uuid CONSTRAINT pk_own_entry PRIMARY KEY,
    practice_id uuid NOT NULL CONSTRAINT fk_own_entry_practice_id REFERENCES practice (id),
    entry varchar NOT NULL,
    version integer NOT NULL DEFAULT 1,
    row jsonb NOT NULL,
    changed_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT uq_own_entry_practice_id UNIQUE (practice_id, entry)
);
CREATE EXTENSION IF NOT EXISTS pg_trgm;
CREATE TABLE atlas_text (
    entry varchar NOT NULL,
    text varchar NOT NULL,
    CONSTRAINT pk_atlas_text PRIMARY KEY (entry, text)
);
CREATE INDEX ix_atlas_text_text ON atlas_text USING gin (text gin_trgm_ops);
"""


def upgrade() -> None:
    op.execute(TABLES)
    for table, writes in (("finding", "INSERT"), ("own_entry", "INSERT, UPDATE, DELETE")):
        guard(table, writes)
    grant("SELECT", "atlas_text")


def downgrade() -> None:
    op.execute("DROP TABLE atlas_text, own_entry, finding")
    op.execute("DROP EXTENSION IF EXISTS pg_trgm")
