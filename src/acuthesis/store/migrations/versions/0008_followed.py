"""Following in full: who said a rating and corrections that keep it, the log between visits, decisions, outcomes."""

from alembic import op

from acuthesis.store.migrations.rights import erase_and_join, guard

revision = "0008"
down_revision = "0007"

TABLES = """
CREATE TABLE log (
    kind VARCHAR NOT NULL,
    complaint_id UUID,
    on_day DATE NOT NULL,
    until DATE,
    amount DOUBLE PRECISION,
    words VARCHAR DEFAULT '' NOT NULL,
    other_care BOOLEAN DEFAULT false NOT NULL,
    pressed JSONB DEFAULT '[]'::jsonb NOT NULL,
    said_by VARCHAR NOT NULL,
    replaces UUID,
    dropped BOOLEAN DEFAULT false NOT NULL,
    recorded_by UUID,
    recorded_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_log PRIMARY KEY (id),
    CONSTRAINT fk_log_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_log_recorded_by_practice_id FOREIGN KEY(recorded_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_log_complaint_id_person_id FOREIGN KEY(complaint_id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_log_replaces_person_id FOREIGN KEY(replaces, person_id)
        REFERENCES log (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT uq_log_id_person_id UNIQUE (id, person_id),
    CONSTRAINT uq_log_replaces UNIQUE (replaces),
    CONSTRAINT ck_log_kind CHECK (kind IN ('medicine', 'sleep', 'practice', 'event')),
    CONSTRAINT ck_log_said_by CHECK (said_by IN ('person', 'from_home', 'carer', 'practitioner')),
    CONSTRAINT ck_log_until CHECK (until >= on_day),
    CONSTRAINT ck_log_amount CHECK (amount >= 0),
    CONSTRAINT ck_log_sleep CHECK (kind <> 'sleep' OR (amount IS NOT NULL AND amount <= 24)),
    CONSTRAINT ck_log_words CHECK (kind IN ('sleep', 'practice') OR words <> '')
);
CREATE INDEX ix_log_person_id ON log (person_id);
CREATE INDEX ix_log_person_id_on_day ON log (person_id, on_day);
CREATE TABLE decision (
    complaint_id UUID NOT NULL,
    version INTEGER DEFAULT '1' NOT NULL,
    proposed JSONB NOT NULL,
    step VARCHAR NOT NULL,
    because VARCHAR DEFAULT '' NOT NULL,
    decided_by UUID NOT NULL,
    decided_at timestamptz DEFAULT now() NOT NULL,
    came_of VARCHAR DEFAULT '' NOT NULL,
    came_of_at timestamptz,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_decision PRIMARY KEY (id),
    CONSTRAINT fk_decision_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_decision_decided_by_practice_id FOREIGN KEY(decided_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_decision_complaint_id_person_id FOREIGN KEY(complaint_id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT ck_decision_step CHECK (step IN ('go_on', 'change_plan', 'space_out', 'finish', 'refer', 'look_again')),
    CONSTRAINT ck_decision_came_of CHECK ((came_of = '') = (came_of_at IS NULL))
);
CREATE INDEX ix_decision_complaint_id_decided_at ON decision (complaint_id, decided_at);
CREATE INDEX ix_decision_person_id ON decision (person_id);
CREATE TABLE outcome (
    method INTEGER NOT NULL,
    rated INTEGER NOT NULL,
    trend VARCHAR NOT NULL,
    first_on DATE,
    last_on DATE,
    told JSONB NOT NULL,
    analysis JSONB,
    made_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_outcome PRIMARY KEY (id),
    CONSTRAINT fk_outcome_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_outcome_id_person_id FOREIGN KEY(id, person_id)
        REFERENCES complaint (id, person_id) DEFERRABLE INITIALLY IMMEDIATE
);
CREATE INDEX ix_outcome_person_id ON outcome (person_id);
CREATE INDEX ix_outcome_practice_id_trend ON outcome (practice_id, trend);
"""
RATED = """
ALTER TABLE {table}
    ADD COLUMN said_by varchar NOT NULL DEFAULT 'person',
    ADD COLUMN recorded_by uuid,
    ADD COLUMN replaces uuid,
    ADD COLUMN dropped boolean NOT NULL DEFAULT false,
    ADD CONSTRAINT ck_{table}_said_by CHECK (said_by IN ('person', 'from_home', 'carer', 'practitioner')),
    ADD CONSTRAINT uq_{table}_id_person_id UNIQUE (id, person_id),
    ADD CONSTRAINT uq_{table}_replaces UNIQUE (replaces),
    ADD CONSTRAINT fk_{table}_recorded_by_practice_id FOREIGN KEY (recorded_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    ADD CONSTRAINT fk_{table}_replaces_person_id FOREIGN KEY (replaces, person_id)
        REFERENCES {table} (id, person_id) DEFERRABLE INITIALLY IMMEDIATE;
"""
EPISODE = """
ALTER TABLE episode
    ADD COLUMN said_by varchar NOT NULL DEFAULT 'person',
    ADD COLUMN earlier jsonb NOT NULL DEFAULT '[]'::jsonb,
    ALTER COLUMN recorded_by DROP NOT NULL,
    ADD CONSTRAINT ck_episode_said_by CHECK (said_by IN ('person', 'from_home', 'carer', 'practitioner'));
"""
# Whatever changes the ratings of a complaint counts up: what was said of fewer ratings is seen to be old.
COUNTED = """
ALTER TABLE complaint ADD COLUMN rated integer NOT NULL DEFAULT 0;
CREATE FUNCTION count_ratings() RETURNS trigger
    LANGUAGE plpgsql SET search_path = pg_catalog, public
    AS $$
BEGIN
    UPDATE public.complaint SET rated = rated + told.count
        FROM (SELECT complaint_id, count(*) AS count FROM changed GROUP BY complaint_id) AS told
        WHERE complaint.id = told.complaint_id;
    RETURN NULL;
END $$;
CREATE TRIGGER count_added AFTER INSERT ON rating REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION count_ratings();
CREATE TRIGGER count_changed AFTER UPDATE ON rating REFERENCING NEW TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION count_ratings();
CREATE TRIGGER count_removed AFTER DELETE ON rating REFERENCING OLD TABLE AS changed
    FOR EACH STATEMENT EXECUTE FUNCTION count_ratings();
"""
BEFORE = (
    "complaint_answers", "complaint_place", "confirmation", "act_rating", "episode", "settlement", "treatment_event",
    "rating", "draft", "addendum", "planned_visit", "consent", "story", "letter", "finding", "threshold", "clearance",
    "screening", "measure", "visit", "complaint",
)  # fmt: skip
NEW = {"log": "INSERT", "decision": "INSERT, UPDATE", "outcome": "INSERT, UPDATE"}
RATINGS = ("rating", "act_rating")


def _forced(on: bool) -> None:
    for table in ("complaint", "person", "practitioner", "episode", *RATINGS):
        op.execute(f"ALTER TABLE {table} {'' if on else 'NO '}FORCE ROW LEVEL SECURITY")


def upgrade() -> None:
    _forced(False)
    op.execute(TABLES)
    for table in RATINGS:
        op.execute(RATED.replace("{table}", table))
    op.execute(EPISODE)
    # What was rated at home was said from home.
    op.execute("UPDATE rating SET said_by = 'from_home' WHERE moment = 'home'")
    op.execute("UPDATE act_rating SET said_by = 'from_home' WHERE moment = 'home'")
    op.execute(COUNTED)
    _forced(True)
    for table, writes in NEW.items():
        guard(table, writes)
    erase_and_join((*reversed(NEW), *BEFORE), audit_moves=True)


def downgrade() -> None:
    erase_and_join(BEFORE, audit_moves=True)
    _forced(False)
    for trigger in ("count_added", "count_changed", "count_removed"):
        op.execute(f"DROP TRIGGER {trigger} ON rating")
    op.execute("DROP FUNCTION count_ratings; ALTER TABLE complaint DROP COLUMN rated")
    for table in RATINGS:
        # What was corrected or dropped would count again: only what holds stays.
        op.execute(
            f"DELETE FROM {table} AS one WHERE dropped OR EXISTS "
            f"(SELECT FROM {table} AS later WHERE later.replaces = one.id)"
        )
        op.execute(
            f"ALTER TABLE {table} DROP COLUMN said_by, DROP COLUMN recorded_by, DROP COLUMN replaces, "
            f"DROP COLUMN dropped, DROP CONSTRAINT uq_{table}_id_person_id"
        )
    # What came from home alone had nobody who wrote it down, which the older tables cannot say.
    op.execute(
        "DELETE FROM episode WHERE recorded_by IS NULL; ALTER TABLE episode DROP COLUMN said_by, DROP COLUMN earlier, "
        "ALTER COLUMN recorded_by SET NOT NULL"
    )
    op.execute("DROP TABLE outcome, decision, log")
    _forced(True)
