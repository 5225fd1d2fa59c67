"""Between visits: plans for home, diaries, what was reported urgently; letters that are made here; jobs that wait."""

from pathlib import Path

from alembic import op

from acuthesis.store.migrations.rights import app_role, erase_and_join, guard

revision = "0009"
down_revision = "0008"

# The queue's own schema as it was when this was written, in a schema of its own (see services/jobs.py).
JOBS = Path(__file__).parent.parent / "sql" / "jobs.sql"
TABLES = """
CREATE TABLE home_plan (
    plan JSONB NOT NULL,
    hours JSONB NOT NULL,
    first_day DATE NOT NULL,
    until DATE NOT NULL,
    made_by UUID NOT NULL,
    made_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_home_plan PRIMARY KEY (id),
    CONSTRAINT fk_home_plan_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_home_plan_made_by_practice_id FOREIGN KEY(made_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT ck_home_plan_until CHECK (until >= first_day)
);
CREATE INDEX ix_home_plan_person_id ON home_plan (person_id);
CREATE TABLE diary (
    code_hash BYTEA NOT NULL,
    code_until timestamptz NOT NULL,
    key_hash BYTEA,
    asks JSONB NOT NULL,
    until DATE NOT NULL,
    made_by UUID NOT NULL,
    made_at timestamptz DEFAULT now() NOT NULL,
    opened_at timestamptz,
    heard_at timestamptz,
    ended_at timestamptz,
    told_on DATE,
    told INTEGER DEFAULT '0' NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_diary PRIMARY KEY (id),
    CONSTRAINT fk_diary_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_diary_made_by_practice_id FOREIGN KEY(made_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT uq_diary_id_person_id UNIQUE (id, person_id),
    CONSTRAINT uq_diary_code_hash UNIQUE (code_hash),
    CONSTRAINT uq_diary_key_hash UNIQUE (key_hash),
    CONSTRAINT ck_diary_opened CHECK ((key_hash IS NULL) = (opened_at IS NULL))
);
CREATE INDEX ix_diary_person_id ON diary (person_id);
CREATE TABLE home_flag (
    diary_id UUID,
    question VARCHAR NOT NULL,
    said_at timestamptz NOT NULL,
    heard_at timestamptz DEFAULT now() NOT NULL,
    looked_at timestamptz,
    looked_by UUID,
    words VARCHAR DEFAULT '' NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_home_flag PRIMARY KEY (id),
    CONSTRAINT fk_home_flag_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_home_flag_looked_by_practice_id FOREIGN KEY(looked_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_home_flag_diary_id_person_id FOREIGN KEY(diary_id, person_id)
        REFERENCES diary (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT ck_home_flag_looked CHECK ((looked_at IS NULL) = (looked_by IS NULL)),
    CONSTRAINT ck_home_flag_words CHECK (looked_at IS NULL OR words <> '')
);
CREATE INDEX ix_home_flag_person_id ON home_flag (person_id);
CREATE INDEX ix_home_flag_practice_id ON home_flag (practice_id) WHERE looked_at IS NULL;
CREATE TABLE paper (
    kind VARCHAR NOT NULL,
    asked JSONB NOT NULL,
    body VARCHAR NOT NULL,
    consent_id UUID,
    state VARCHAR DEFAULT 'waiting' NOT NULL,
    step INTEGER DEFAULT '0' NOT NULL,
    told VARCHAR DEFAULT '' NOT NULL,
    text VARCHAR DEFAULT '' NOT NULL,
    plain VARCHAR DEFAULT '' NOT NULL,
    pdf BYTEA,
    asked_by UUID NOT NULL,
    asked_at timestamptz DEFAULT now() NOT NULL,
    made_at timestamptz,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_paper PRIMARY KEY (id),
    CONSTRAINT fk_paper_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_paper_asked_by_practice_id FOREIGN KEY(asked_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_paper_consent_id_person_id FOREIGN KEY(consent_id, person_id)
        REFERENCES consent (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT ck_paper_kind CHECK (kind IN ('doctor', 'midwife', 'summary')),
    CONSTRAINT ck_paper_state CHECK (state IN ('waiting', 'making', 'made', 'failed', 'cancelled')),
    CONSTRAINT ck_paper_made CHECK (pdf IS NULL OR state = 'made'),
    CONSTRAINT ck_paper_consent CHECK (kind = 'summary' OR consent_id IS NOT NULL)
);
CREATE INDEX ix_paper_person_id ON paper (person_id);
CREATE TABLE letter_template (
    practice_id UUID NOT NULL,
    kind VARCHAR NOT NULL,
    version INTEGER DEFAULT '1' NOT NULL,
    body VARCHAR NOT NULL,
    changed_by UUID NOT NULL,
    changed_at timestamptz DEFAULT now() NOT NULL,
    CONSTRAINT pk_letter_template PRIMARY KEY (practice_id, kind),
    CONSTRAINT fk_letter_template_changed_by_practice_id FOREIGN KEY(changed_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT ck_letter_template_kind CHECK (kind IN ('doctor', 'midwife', 'summary')),
    CONSTRAINT fk_letter_template_practice_id FOREIGN KEY(practice_id) REFERENCES practice (id)
);
"""
BEFORE = (
    "outcome", "decision", "log", "complaint_answers", "complaint_place", "confirmation", "act_rating", "episode",
    "settlement", "treatment_event", "rating", "draft", "addendum", "planned_visit", "consent", "story", "letter",
    "finding", "threshold", "clearance", "screening", "measure", "visit", "complaint",
)  # fmt: skip
OF_PERSONS = {
    "home_flag": "INSERT, UPDATE",
    "diary": "INSERT, UPDATE",
    "paper": "INSERT, UPDATE",
    "home_plan": "INSERT",
}
QUEUE = """
CREATE SCHEMA jobs;
SET LOCAL search_path = jobs;
{jobs}
SET LOCAL search_path = public;
GRANT USAGE ON SCHEMA jobs TO {app};
GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA jobs TO {app};
GRANT USAGE ON ALL SEQUENCES IN SCHEMA jobs TO {app};
"""


def upgrade() -> None:
    op.execute("ALTER TABLE consent ADD CONSTRAINT uq_consent_id_person_id UNIQUE (id, person_id)")
    op.execute(TABLES)
    for table, writes in OF_PERSONS.items():
        guard(table, writes)
    guard("letter_template", "INSERT, UPDATE, DELETE")
    erase_and_join((*OF_PERSONS, *BEFORE), audit_moves=True)
    queue = QUEUE.replace("{jobs}", JOBS.read_text(encoding="utf-8")).replace("{app}", app_role())
    # As it is, in one piece: it is written for the driver, whose placeholders would be looked for in it otherwise.
    op.get_bind().connection.cursor().execute(queue)


def downgrade() -> None:
    op.execute("DROP SCHEMA jobs CASCADE")
    erase_and_join(BEFORE, audit_moves=True)
    op.execute("DROP TABLE letter_template, paper, home_flag, diary, home_plan")
    op.execute("ALTER TABLE consent DROP CONSTRAINT uq_consent_id_person_id")
