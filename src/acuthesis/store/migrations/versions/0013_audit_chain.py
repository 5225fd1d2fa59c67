"""An audit that can be believed: time from the database, device and address, and a hash over each practice's rows.

When a transaction commits, each of its rows gets the next number of its practice and a hash over itself and the hash
before it. A row that is changed, removed or put in between later breaks the chain from there on.
"""

from alembic import op

from acuthesis.store.migrations.rights import erase_and_join, guard

revision = "0013"
down_revision = "0012"

COLUMNS = """
ALTER TABLE audit ADD COLUMN address VARCHAR NOT NULL DEFAULT '',
    ADD COLUMN device VARCHAR NOT NULL DEFAULT '',
    ADD COLUMN reason VARCHAR NOT NULL DEFAULT '',
    ADD COLUMN number BIGINT,
    ADD COLUMN hash BYTEA,
    ADD CONSTRAINT uq_audit_practice_id_number UNIQUE (practice_id, number);
"""
# What is hashed: every column in a fixed order, a missing one unlike an empty one, the time as UTC to the microsecond.
HASH = """
CREATE FUNCTION audit_hash(entry audit, before bytea) RETURNS bytea LANGUAGE sql STABLE AS $$
    SELECT sha256(coalesce(before, ''::bytea) || convert_to(jsonb_build_array(
        entry.practice_id, entry.number, entry.practitioner_id, entry.person_id, entry.action, entry.reason,
        entry.address, entry.device, to_char(entry.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US')
    )::text, 'UTF8'))
$$;
"""
# The application may insert and nothing else; what is chained is written by the owner's functions alone.
STAMP = """
CREATE FUNCTION audit_stamp() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    NEW.at := now();
    NEW.number := NULL;
    NEW.hash := NULL;
    RETURN NEW;
END $$;
CREATE TRIGGER audit_stamp BEFORE INSERT ON audit FOR EACH ROW EXECUTE FUNCTION audit_stamp();

CREATE FUNCTION audit_link() RETURNS trigger
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE last record; entry audit := NEW;
BEGIN
    -- One transaction at a time links rows of a practice, and only while it commits.
    PERFORM pg_advisory_xact_lock(hashtextextended('audit ' || NEW.practice_id::text, 0));
    PERFORM set_config('acuthesis.practice', NEW.practice_id::text, true);
    SELECT number, hash INTO last FROM public.audit
        WHERE practice_id = NEW.practice_id AND number IS NOT NULL ORDER BY number DESC LIMIT 1;
    entry.number := coalesce(last.number, 0) + 1;
    UPDATE public.audit SET number = entry.number, hash = audit_hash(entry, last.hash) WHERE id = NEW.id;
    RETURN NULL;
END $$;
REVOKE ALL ON FUNCTION audit_link() FROM PUBLIC;
CREATE CONSTRAINT TRIGGER audit_link AFTER INSERT ON audit DEFERRABLE INITIALLY DEFERRED
    FOR EACH ROW EXECUTE FUNCTION audit_link();
"""
# Rows from before, in the order in which they were written.
CHAIN_UP = """
DO $$
DECLARE entry audit; practice uuid; before bytea; counted bigint;
BEGIN
    ALTER TABLE audit NO FORCE ROW LEVEL SECURITY;
    FOR practice IN SELECT DISTINCT practice_id FROM audit LOOP
        before := NULL;
        counted := 0;
        FOR entry IN SELECT * FROM audit WHERE practice_id = practice ORDER BY id LOOP
            counted := counted + 1;
            UPDATE audit SET number = counted WHERE id = entry.id RETURNING * INTO entry;
            before := audit_hash(entry, before);
            UPDATE audit SET hash = before WHERE id = entry.id;
        END LOOP;
    END LOOP;
    ALTER TABLE audit FORCE ROW LEVEL SECURITY;
END $$;
"""
# A merge changes no row of the audit: whoever was merged into somebody is found by that person's list. Whoever may read
# only the people they treat is granted a look at somebody else for a while, with a reason.
MERGED = """
ALTER TABLE person ADD COLUMN merged_ids UUID[] NOT NULL DEFAULT '{}';
ALTER TABLE practice ADD COLUMN own_people_only BOOLEAN NOT NULL DEFAULT false;
CREATE TABLE reading_grant (
    practitioner_id UUID NOT NULL,
    reason VARCHAR NOT NULL,
    until timestamptz NOT NULL,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_reading_grant PRIMARY KEY (id),
    CONSTRAINT fk_reading_grant_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_reading_grant_practitioner_id_practice_id FOREIGN KEY(practitioner_id, practice_id)
        REFERENCES practitioner (id, practice_id)
);
CREATE INDEX ix_reading_grant_person_id ON reading_grant (person_id);
"""
TABLES_0011 = (
    "own_say", "home_flag", "diary", "paper", "home_plan",
    "outcome", "decision", "log", "complaint_answers", "complaint_place", "confirmation", "act_rating", "episode",
    "settlement", "treatment_event", "rating", "draft", "addendum", "planned_visit", "consent", "story", "letter",
    "finding", "threshold", "clearance", "screening", "measure", "visit", "complaint",
)  # fmt: skip
# The first row whose number or hash is not what it has to be; none where the chain holds.
VERIFY = """
CREATE FUNCTION audit_broken_at(practice uuid) RETURNS TABLE(number bigint, at timestamptz, action varchar)
    LANGUAGE plpgsql STABLE AS $$
DECLARE entry audit; before bytea; expected bigint := 0;
BEGIN
    FOR entry IN SELECT * FROM audit a WHERE a.practice_id = practice ORDER BY a.number NULLS LAST LOOP
        expected := expected + 1;
        IF entry.number IS DISTINCT FROM expected OR entry.hash IS DISTINCT FROM audit_hash(entry, before) THEN
            RETURN QUERY SELECT coalesce(entry.number, expected), entry.at, entry.action;
            RETURN;
        END IF;
        before := entry.hash;
    END LOOP;
END $$;
"""


def upgrade() -> None:
    op.execute(COLUMNS)
    op.execute(HASH)
    op.execute(CHAIN_UP)
    op.execute(STAMP)
    op.execute(VERIFY)
    op.execute(MERGED)
    erase_and_join(("reading_grant", *TABLES_0011))
    guard("reading_grant", "INSERT")


def downgrade() -> None:
    op.execute("DROP FUNCTION audit_broken_at(uuid)")
    op.execute("DROP TRIGGER audit_link ON audit")
    op.execute("DROP TRIGGER audit_stamp ON audit")
    op.execute("DROP FUNCTION audit_link()")
    op.execute("DROP FUNCTION audit_stamp()")
    op.execute("DROP FUNCTION audit_hash(audit, bytea)")
    op.execute("DROP TABLE reading_grant")
    op.execute("ALTER TABLE practice DROP COLUMN own_people_only")
    erase_and_join(TABLES_0011, audit_moves=True)
    op.execute("ALTER TABLE person DROP COLUMN merged_ids")
    for column in ("address", "device", "reason", "number", "hash"):
        op.execute(f"ALTER TABLE audit DROP COLUMN {column}")
