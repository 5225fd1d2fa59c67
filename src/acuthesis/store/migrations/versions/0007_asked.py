"""What troubles them, asked in full: answers over time, acts with ratings of their own, a doctor's look, episodes."""

from alembic import op

from acuthesis.store.migrations.rights import erase_and_join, guard

revision = "0007"
down_revision = "0006"

TABLES = """
CREATE TABLE complaint_answers (
    complaint_id UUID NOT NULL,
    answers JSONB NOT NULL,
    asked_by UUID NOT NULL,
    asked_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_complaint_answers PRIMARY KEY (id),
    CONSTRAINT fk_complaint_answers_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_complaint_answers_asked_by_practice_id FOREIGN KEY (asked_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_complaint_answers_complaint_id_person_id FOREIGN KEY (complaint_id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE
);
CREATE INDEX ix_complaint_answers_complaint_id ON complaint_answers (complaint_id);
CREATE INDEX ix_complaint_answers_person_id ON complaint_answers (person_id);
CREATE TABLE confirmation (
    complaint_id UUID NOT NULL,
    by VARCHAR NOT NULL,
    seen_on DATE NOT NULL,
    recorded_by UUID NOT NULL,
    recorded_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_confirmation PRIMARY KEY (id),
    CONSTRAINT fk_confirmation_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_confirmation_recorded_by_practice_id FOREIGN KEY (recorded_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_confirmation_complaint_id_person_id FOREIGN KEY (complaint_id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT ck_confirmation_by CHECK (by <> '')
);
CREATE INDEX ix_confirmation_complaint_id ON confirmation (complaint_id);
CREATE INDEX ix_confirmation_person_id ON confirmation (person_id);
CREATE TABLE act_rating (
    complaint_id UUID NOT NULL,
    act_id UUID NOT NULL,
    visit_id UUID,
    moment VARCHAR NOT NULL,
    value INTEGER NOT NULL,
    rated_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_act_rating PRIMARY KEY (id),
    CONSTRAINT fk_act_rating_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_act_rating_complaint_id_person_id FOREIGN KEY (complaint_id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_act_rating_visit_id_person_id FOREIGN KEY (visit_id, person_id)
        REFERENCES visit (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT ck_act_rating_value CHECK (value BETWEEN 0 AND 10),
    CONSTRAINT ck_act_rating_moment CHECK (moment IN ('before', 'after', 'home')),
    CONSTRAINT ck_act_rating_visit CHECK ((moment = 'home') = (visit_id IS NULL))
);
CREATE INDEX ix_act_rating_complaint_id_rated_at ON act_rating (complaint_id, rated_at);
CREATE INDEX ix_act_rating_person_id ON act_rating (person_id);
CREATE INDEX ix_act_rating_visit_id ON act_rating (visit_id);
CREATE TABLE episode (
    complaint_id UUID NOT NULL,
    version INTEGER DEFAULT '1' NOT NULL,
    started_at timestamptz NOT NULL,
    ended_at timestamptz,
    goes_on BOOLEAN DEFAULT false NOT NULL,
    day_only BOOLEAN DEFAULT false NOT NULL,
    day_said BOOLEAN DEFAULT true NOT NULL,
    strength INTEGER,
    trigger VARCHAR DEFAULT '' NOT NULL,
    helped VARCHAR DEFAULT '' NOT NULL,
    medicine VARCHAR DEFAULT '' NOT NULL,
    dropped_at timestamptz,
    recorded_by UUID NOT NULL,
    recorded_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_episode PRIMARY KEY (id),
    CONSTRAINT fk_episode_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_episode_recorded_by_practice_id FOREIGN KEY (recorded_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_episode_complaint_id_person_id FOREIGN KEY (complaint_id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT ck_episode_strength CHECK (strength BETWEEN 0 AND 10),
    CONSTRAINT ck_episode_ended CHECK (ended_at >= started_at),
    CONSTRAINT ck_episode_goes_on CHECK (NOT (goes_on AND ended_at IS NOT NULL))
);
CREATE INDEX ix_episode_complaint_id_started_at ON episode (complaint_id, started_at);
CREATE INDEX ix_episode_person_id ON episode (person_id);
CREATE TABLE complaint_place (
    complaint_id UUID NOT NULL,
    skin JSONB NOT NULL,
    words VARCHAR NOT NULL,
    painted_by UUID NOT NULL,
    painted_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_complaint_place PRIMARY KEY (id),
    CONSTRAINT fk_complaint_place_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_complaint_place_painted_by_practice_id FOREIGN KEY (painted_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_complaint_place_complaint_id_person_id FOREIGN KEY (complaint_id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE
);
CREATE INDEX ix_complaint_place_complaint_id ON complaint_place (complaint_id);
CREATE INDEX ix_complaint_place_person_id ON complaint_place (person_id);
ALTER TABLE complaint ADD COLUMN acts jsonb NOT NULL DEFAULT '[]'::jsonb;
UPDATE complaint SET acts = jsonb_build_array(jsonb_build_object('id', gen_random_uuid(), 'words', act))
    WHERE act <> '';
ALTER TABLE complaint DROP COLUMN act;
"""
BEFORE = (
    "settlement", "treatment_event", "rating", "draft", "addendum", "planned_visit", "consent", "story", "letter",
    "finding", "threshold", "clearance", "screening", "measure", "visit", "complaint",
)  # fmt: skip
NEW = {
    "complaint_answers": "INSERT",
    "complaint_place": "INSERT",
    "confirmation": "INSERT",
    "act_rating": "INSERT",
    "episode": "INSERT, UPDATE",
}


def _forced(on: bool) -> None:
    for table in ("complaint", "person", "practitioner", "visit"):
        op.execute(f"ALTER TABLE {table} {'' if on else 'NO '}FORCE ROW LEVEL SECURITY")


def upgrade() -> None:
    _forced(False)
    op.execute(TABLES)
    _forced(True)
    for table, writes in NEW.items():
        guard(table, writes)
    erase_and_join((*NEW, *BEFORE), audit_moves=True)


def downgrade() -> None:
    erase_and_join(BEFORE, audit_moves=True)
    _forced(False)
    op.execute(
        """
        ALTER TABLE complaint ADD COLUMN act varchar NOT NULL DEFAULT '';
        UPDATE complaint SET act = coalesce(acts -> 0 ->> 'words', '');
        ALTER TABLE complaint DROP COLUMN acts;
        DROP TABLE complaint_answers, complaint_place, confirmation, act_rating, episode;
        """
    )
    _forced(True)
