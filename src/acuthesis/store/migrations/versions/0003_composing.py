"""Drafts of a visit's score, a practice's protocols, and its changes to the shipped knowledge."""

from alembic import op

from acuthesis.store.migrations.rights import guard

revision = "0003"
down_revision = "0002"

TABLES = """
CREATE TABLE draft (
    id uuid CONSTRAINT pk_draft PRIMARY KEY,
    practice_id uuid NOT NULL,
    person_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    label varchar NOT NULL,
    score jsonb NOT NULL,
    kept_by uuid CONSTRAINT fk_draft_kept_by_practitioner REFERENCES practitioner (id),
    kept_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT fk_draft_person_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) ON DELETE CASCADE,
    CONSTRAINT fk_draft_visit_id FOREIGN KEY (visit_id, person_id)
        REFERENCES visit (id, person_id) ON DELETE CASCADE
);
CREATE INDEX ix_draft_person_id ON draft (person_id);
CREATE INDEX ix_draft_visit_id ON draft (visit_id);
CREATE TABLE protocol (
    id uuid CONSTRAINT pk_protocol PRIMARY KEY,
    practice_id uuid NOT NULL CONSTRAINT fk_protocol_practice_id_practice REFERENCES practice (id),
    name varchar NOT NULL,
    version integer NOT NULL DEFAULT 1,
    protocol jsonb NOT NULL,
    changed_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT uq_protocol_practice_id UNIQUE (practice_id, name)
);
CREATE TABLE layer (
    practice_id uuid CONSTRAINT pk_layer PRIMARY KEY
        CONSTRAINT fk_layer_practice_id_practice REFERENCES practice (id),
    version integer NOT NULL DEFAULT 1,
    layer jsonb NOT NULL,
    changed_by uuid,
    changed_at timestamptz NOT NULL DEFAULT now()
);
"""
WRITES = {"draft": "INSERT", "protocol": "INSERT, UPDATE, DELETE", "layer": "INSERT, UPDATE"}


def upgrade() -> None:
    op.execute(TABLES)
    for table, writes in WRITES.items():
        guard(table, writes)


def downgrade() -> None:
    op.execute("DROP TABLE layer, protocol, draft")
