"""Week after week: who works in a practice and how they come in, places, bookings and series, the record
of a visit, and the person's contact, consents, story and letters."""

from alembic import op

from acuthesis.store.migrations.rights import app_role, erase_and_join, erase_person, grant, guard

revision = "0006"
down_revision = "0005"

COLUMNS = """
CREATE EXTENSION IF NOT EXISTS unaccent;
ALTER TABLE practice
    ADD COLUMN emergency varchar NOT NULL DEFAULT '',
    ADD COLUMN hours jsonb NOT NULL DEFAULT '{}'::jsonb,
    ADD COLUMN second_factor_required boolean NOT NULL DEFAULT false;
ALTER TABLE practitioner
    ADD COLUMN role varchar NOT NULL DEFAULT 'practitioner'
        CONSTRAINT ck_practitioner_role CHECK (role IN ('owner', 'practitioner', 'helper', 'reader')),
    ADD COLUMN closed_at timestamptz,
    ADD COLUMN totp_secret varchar,
    ADD COLUMN totp_since timestamptz,
    ADD COLUMN totp_last_step bigint NOT NULL DEFAULT 0,
    ADD COLUMN recovery_hashes jsonb NOT NULL DEFAULT '[]'::jsonb,
    ADD COLUMN calendar_hash bytea CONSTRAINT uq_practitioner_calendar_hash UNIQUE,
    ADD COLUMN calendar_names boolean NOT NULL DEFAULT false,
    ADD COLUMN schools jsonb NOT NULL DEFAULT '[]'::jsonb,
    ADD COLUMN usual_minutes integer NOT NULL DEFAULT 45
        CONSTRAINT ck_practitioner_usual_minutes CHECK (usual_minutes BETWEEN 3 AND 240),
    ADD COLUMN name_languages jsonb NOT NULL DEFAULT '["english", "romanised", "characters"]'::jsonb,
    ADD CONSTRAINT ck_practitioner_closed CHECK (closed_at IS NULL OR email IS NULL);
UPDATE practitioner SET role = 'owner' WHERE email IS NOT NULL;  -- whoever worked alone until now runs the practice
ALTER TABLE auth_session
    ADD COLUMN id uuid NOT NULL DEFAULT gen_random_uuid() CONSTRAINT uq_auth_session_id UNIQUE,
    ADD COLUMN device varchar NOT NULL DEFAULT '',
    ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now();
ALTER TABLE auth_session ALTER COLUMN id DROP DEFAULT;
ALTER TABLE person
    ADD COLUMN in_charge uuid,
    ADD COLUMN phone varchar NOT NULL DEFAULT '',
    ADD COLUMN email varchar NOT NULL DEFAULT '',
    ADD COLUMN address varchar NOT NULL DEFAULT '',
    ADD COLUMN doctor varchar NOT NULL DEFAULT '',
    ADD COLUMN emergency_contact varchar NOT NULL DEFAULT '',
    ADD COLUMN guardian varchar NOT NULL DEFAULT '',
    ADD COLUMN archived_at timestamptz,
    ADD CONSTRAINT fk_person_in_charge_practice_id FOREIGN KEY (in_charge, practice_id)
        REFERENCES practitioner (id, practice_id);
CREATE INDEX ix_person_in_charge ON person (in_charge);
UPDATE person SET in_charge = (
    SELECT v.practitioner_id FROM visit AS v WHERE v.person_id = person.id ORDER BY v.starts_at DESC LIMIT 1
);
"""

TABLES = """
CREATE TABLE one_time_link (
    token_hash BYTEA NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    kind VARCHAR NOT NULL,
    role VARCHAR,
    name VARCHAR DEFAULT '' NOT NULL,
    email VARCHAR DEFAULT '' NOT NULL,
    practitioner_id UUID,
    made_by UUID,
    made_at timestamptz DEFAULT now() NOT NULL,
    expires_at timestamptz NOT NULL,
    used_at timestamptz,
    CONSTRAINT pk_one_time_link PRIMARY KEY (token_hash),
    CONSTRAINT ck_one_time_link_kind CHECK (kind IN ('set_up', 'invitation', 'reset')),
    CONSTRAINT ck_one_time_link_role CHECK (role IN ('owner', 'practitioner', 'helper', 'reader')),
    CONSTRAINT uq_one_time_link_id UNIQUE (id)
);
CREATE INDEX ix_one_time_link_practice_id ON one_time_link (practice_id);
CREATE TABLE place (
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    version INTEGER DEFAULT '1' NOT NULL,
    name VARCHAR NOT NULL,
    address VARCHAR DEFAULT '' NOT NULL,
    archived_at timestamptz,
    CONSTRAINT pk_place PRIMARY KEY (id),
    CONSTRAINT uq_place_id_practice_id UNIQUE (id, practice_id),
    CONSTRAINT uq_place_practice_id_name UNIQUE (practice_id, name),
    CONSTRAINT fk_place_practice_id FOREIGN KEY (practice_id)
        REFERENCES practice (id)
);
CREATE TABLE planned_visit (
    series_id UUID NOT NULL,
    number INTEGER NOT NULL,
    due_on DATE NOT NULL,
    minutes INTEGER NOT NULL,
    purpose VARCHAR DEFAULT '' NOT NULL,
    visit_id UUID,
    dropped_at timestamptz,
    planned_by UUID NOT NULL,
    planned_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_planned_visit PRIMARY KEY (id),
    CONSTRAINT fk_planned_visit_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id),
    CONSTRAINT fk_planned_visit_planned_by_practice_id FOREIGN KEY (planned_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_planned_visit_visit_id_person_id FOREIGN KEY (visit_id, person_id)
        REFERENCES visit (id, person_id),
    CONSTRAINT uq_planned_visit_visit_id UNIQUE (visit_id),
    CONSTRAINT uq_planned_visit_series_id_number UNIQUE (series_id, number),
    CONSTRAINT ck_planned_visit_number CHECK (number BETWEEN 1 AND 60),
    CONSTRAINT ck_planned_visit_minutes CHECK (minutes BETWEEN 3 AND 240),
    CONSTRAINT ck_planned_visit_dropped CHECK (visit_id IS NULL OR dropped_at IS NULL)
);
CREATE INDEX ix_planned_visit_person_id ON planned_visit (person_id);
CREATE INDEX ix_planned_visit_practice_id_due_on ON planned_visit (practice_id, due_on);
CREATE TABLE addendum (
    visit_id UUID NOT NULL,
    said VARCHAR NOT NULL,
    added_by UUID NOT NULL,
    added_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_addendum PRIMARY KEY (id),
    CONSTRAINT fk_addendum_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id),
    CONSTRAINT fk_addendum_added_by_practice_id FOREIGN KEY (added_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_addendum_visit_id_person_id FOREIGN KEY (visit_id, person_id)
        REFERENCES visit (id, person_id),
    CONSTRAINT ck_addendum_said CHECK (said <> '')
);
CREATE INDEX ix_addendum_person_id ON addendum (person_id);
CREATE INDEX ix_addendum_visit_id ON addendum (visit_id);
CREATE TABLE consent (
    about VARCHAR NOT NULL,
    given BOOLEAN NOT NULL,
    said VARCHAR NOT NULL,
    how VARCHAR NOT NULL,
    given_on DATE NOT NULL,
    recorded_by UUID NOT NULL,
    recorded_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_consent PRIMARY KEY (id),
    CONSTRAINT fk_consent_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id),
    CONSTRAINT fk_consent_recorded_by_practice_id FOREIGN KEY (recorded_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT ck_consent_how CHECK (how IN ('in_writing', 'spoken', 'by_guardian'))
);
CREATE INDEX ix_consent_person_id ON consent (person_id);
CREATE TABLE story (
    told VARCHAR NOT NULL,
    told_on DATE NOT NULL,
    written_by UUID,
    written_at timestamptz DEFAULT now() NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_story PRIMARY KEY (id),
    CONSTRAINT fk_story_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id),
    CONSTRAINT fk_story_written_by_practice_id FOREIGN KEY (written_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT ck_story_told CHECK (told <> '')
);
CREATE INDEX ix_story_person_id ON story (person_id);
CREATE TABLE letter (
    recipient VARCHAR NOT NULL,
    about VARCHAR NOT NULL,
    sent_on DATE NOT NULL,
    answer_due DATE,
    answered_on DATE,
    answer VARCHAR DEFAULT '' NOT NULL,
    sent_by UUID NOT NULL,
    version INTEGER DEFAULT '1' NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_letter PRIMARY KEY (id),
    CONSTRAINT fk_letter_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id),
    CONSTRAINT fk_letter_sent_by_practice_id FOREIGN KEY (sent_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT ck_letter_answer_due CHECK (answer_due >= sent_on)
);
CREATE INDEX ix_letter_person_id ON letter (person_id);
CREATE INDEX ix_letter_practice_id_answer_due ON letter (practice_id, answer_due);
"""

OF_VISITS = """
ALTER TABLE visit
    ADD COLUMN place_id uuid,
    ADD COLUMN purpose varchar NOT NULL DEFAULT '',
    ADD COLUMN came varchar NOT NULL DEFAULT 'booked'
        CONSTRAINT ck_visit_came CHECK (came IN ('booked', 'walk_in')),
    ADD COLUMN attendance varchar NOT NULL DEFAULT 'expected'
        CONSTRAINT ck_visit_attendance CHECK (attendance IN ('expected', 'cancelled', 'not_come')),
    ADD COLUMN attendance_reason varchar NOT NULL DEFAULT '',
    ADD COLUMN booking_version integer NOT NULL DEFAULT 1,
    ADD COLUMN booked_by uuid,
    ADD COLUMN booked_at timestamptz NOT NULL DEFAULT now(),
    ADD COLUMN written jsonb,
    ADD COLUMN closed_at timestamptz,
    ADD COLUMN closed_by uuid,
    ADD CONSTRAINT ck_visit_held CHECK (attendance = 'expected' OR treatment = 'not_begun'),
    ADD CONSTRAINT ck_visit_closed CHECK ((closed_at IS NULL) = (closed_by IS NULL)),
    ADD CONSTRAINT fk_visit_booked_by_practice_id FOREIGN KEY (booked_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    ADD CONSTRAINT fk_visit_closed_by_practice_id FOREIGN KEY (closed_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    ADD CONSTRAINT fk_visit_place_id_practice_id FOREIGN KEY (place_id, practice_id)
        REFERENCES place (id, practice_id);
CREATE INDEX ix_visit_place_id ON visit (place_id);
INSERT INTO story (id, practice_id, person_id, told, told_on, written_by, written_at)
    SELECT gen_random_uuid(), practice_id, id, story, created_at::date, NULL, created_at FROM person WHERE story <> '';
ALTER TABLE person DROP COLUMN story;
"""

GONE = (
    "settlement", "treatment_event", "rating", "draft", "addendum", "planned_visit", "consent", "story", "letter",
    "finding", "threshold", "clearance", "screening", "measure", "visit", "complaint",
)  # fmt: skip

DEFERRABLE = """
DO $$
DECLARE key record;
BEGIN
    FOR key IN
        SELECT c.conrelid::regclass AS owner, c.conname FROM pg_constraint AS c
        JOIN pg_attribute AS a ON a.attrelid = c.conrelid AND a.attnum = ANY(c.conkey)
        WHERE c.contype = 'f' AND c.connamespace = 'public'::regnamespace AND a.attname = 'person_id'
    LOOP
        EXECUTE format('ALTER TABLE %s ALTER CONSTRAINT %I {how}', key.owner, key.conname);
    END LOOP;
END $$;
"""

# A closed record is never edited, whoever asks. Only its person may change, when two records of one person are joined.
CLOSED = """
CREATE FUNCTION closed_visits_stay() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF OLD.closed_at IS NOT NULL AND to_jsonb(OLD) - 'person_id' <> to_jsonb(NEW) - 'person_id' THEN
        RAISE EXCEPTION 'the record of this visit is closed' USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
CREATE TRIGGER closed_visits_stay BEFORE UPDATE ON visit FOR EACH ROW EXECUTE FUNCTION closed_visits_stay();
"""

BEFORE = (
    "person", "screening", "clearance", "threshold", "complaint", "measure", "visit", "rating", "treatment_event",
    "settlement", "finding", "own_entry", "draft", "protocol", "layer", "audit", "practice", "practitioner",
    "auth_session",
)  # fmt: skip
NEW = {
    "one_time_link": "INSERT, UPDATE",
    "place": "INSERT, UPDATE",
    "planned_visit": "INSERT, UPDATE",
    "addendum": "INSERT",
    "consent": "INSERT",
    "story": "INSERT",
    "letter": "INSERT, UPDATE",
}


def _forced(on: bool) -> None:
    """Let the owner see rows of every practice for the length of the migration, and take it back."""
    for table in BEFORE:
        op.execute(f"ALTER TABLE {table} {'' if on else 'NO '}FORCE ROW LEVEL SECURITY")


def upgrade() -> None:
    _forced(False)
    op.execute(COLUMNS)
    op.execute(TABLES)
    op.execute(OF_VISITS)
    op.execute(DEFERRABLE.replace("{how}", "DEFERRABLE INITIALLY IMMEDIATE"))
    op.execute(CLOSED)
    _forced(True)
    for table, writes in NEW.items():
        guard(table, writes)
    grant("UPDATE", "auth_session")
    erase_and_join(GONE, audit_moves=True)
    grant("EXECUTE", "FUNCTION join_persons(uuid, uuid, uuid)")


def downgrade() -> None:
    op.execute("DROP FUNCTION join_persons(uuid, uuid, uuid)")
    op.execute("DROP TRIGGER closed_visits_stay ON visit")
    op.execute("DROP FUNCTION closed_visits_stay()")
    erase_person([table for table in GONE if table not in NEW])
    op.execute(f"REVOKE UPDATE ON auth_session FROM {app_role()}")
    _forced(False)
    op.execute(DEFERRABLE.replace("{how}", "NOT DEFERRABLE"))
    op.execute("ALTER TABLE story NO FORCE ROW LEVEL SECURITY")
    op.execute(
        """
        ALTER TABLE person ADD COLUMN story varchar NOT NULL DEFAULT '';
        UPDATE person SET story = told.story FROM (
            SELECT person_id, string_agg(told, E'\\n\\n' ORDER BY told_on, written_at) AS story
            FROM story GROUP BY person_id
        ) AS told WHERE told.person_id = person.id;
        DROP TABLE planned_visit, addendum, consent, story, letter;
        -- The older schema knows no visit that was not held.
        ALTER TABLE visit DROP COLUMN place_id, DROP COLUMN purpose, DROP COLUMN came, DROP COLUMN attendance,
            DROP COLUMN attendance_reason, DROP COLUMN booking_version, DROP COLUMN booked_by,
            DROP COLUMN booked_at, DROP COLUMN written,
            DROP COLUMN closed_at, DROP COLUMN closed_by;
        DROP TABLE place, one_time_link;
        ALTER TABLE person DROP COLUMN in_charge, DROP COLUMN phone, DROP COLUMN email, DROP COLUMN address,
            DROP COLUMN doctor, DROP COLUMN emergency_contact, DROP COLUMN guardian, DROP COLUMN archived_at;
        ALTER TABLE auth_session DROP COLUMN id, DROP COLUMN device, DROP COLUMN seen_at;
        ALTER TABLE practitioner DROP CONSTRAINT ck_practitioner_closed, DROP COLUMN role, DROP COLUMN closed_at,
            DROP COLUMN totp_secret, DROP COLUMN totp_since, DROP COLUMN totp_last_step, DROP COLUMN recovery_hashes,
            DROP COLUMN calendar_hash, DROP COLUMN calendar_names, DROP COLUMN schools, DROP COLUMN usual_minutes,
            DROP COLUMN name_languages;
        ALTER TABLE practice DROP COLUMN emergency, DROP COLUMN hours, DROP COLUMN second_factor_required;
        DROP EXTENSION IF EXISTS unaccent;
        """
    )
    _forced(True)
