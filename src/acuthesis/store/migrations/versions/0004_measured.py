"""Clearances and measured pain thresholds of a person, their breathing, and a practitioner's levels on a scale."""

from alembic import op

from acuthesis.store.migrations.rights import guard

revision = "0004"
down_revision = "0003"

TABLES = """
CREATE TABLE clearance (
    id uuid CONSTRAINT pk_clearance PRIMARY KEY,
    practice_id uuid NOT NULL,
    person_id uuid NOT NULL,
    flag varchar NOT NULL,
    by varchar NOT NULL,
    given_on date NOT NULL,
    what_for varchar NOT NULL,
    until date NOT NULL CONSTRAINT ck_clearance_until CHECK (until >= given_on),
    granted boolean NOT NULL,
    recorded_by uuid CONSTRAINT fk_clearance_recorded_by_practitioner REFERENCES practitioner (id),
    recorded_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT fk_clearance_person_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) ON DELETE CASCADE
);
CREATE INDEX ix_clearance_person_id ON clearance (person_id);
CREATE TABLE threshold (
    id uuid CONSTRAINT pk_threshold PRIMARY KEY,
    practice_id uuid NOT NULL,
    person_id uuid NOT NULL,
    part varchar NOT NULL,
    n_per_cm2 double precision CONSTRAINT ck_threshold_n_per_cm2 CHECK (n_per_cm2 > 0),
    taken_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT fk_threshold_person_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) ON DELETE CASCADE
);
CREATE INDEX ix_threshold_person_id ON threshold (person_id);
ALTER TABLE person ADD COLUMN breaths_per_minute double precision
    CONSTRAINT ck_person_breaths CHECK (breaths_per_minute BETWEEN 3 AND 30);
ALTER TABLE practitioner ADD COLUMN scale_g jsonb NOT NULL DEFAULT '{}'::jsonb;
"""


def upgrade() -> None:
    op.execute(TABLES)
    for table in ("clearance", "threshold"):
        guard(table, "INSERT")


def downgrade() -> None:
    op.execute("ALTER TABLE practitioner DROP COLUMN scale_g")
    op.execute("ALTER TABLE person DROP COLUMN breaths_per_minute")
    op.execute("DROP TABLE threshold, clearance")
