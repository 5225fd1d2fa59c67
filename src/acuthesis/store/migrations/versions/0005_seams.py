"""The database keeps the promises: nothing that is only added goes with its person or visit, practitioners are guarded
and of the same practice as what they did. Also: time zones, disputed events, idle locks, indexes for years."""

from alembic import op

from acuthesis.store.migrations.rights import OWN_PRACTICE, app_role, grant, guard

revision = "0005"
down_revision = "0004"

COLUMNS = """
ALTER TABLE practice ADD COLUMN time_zone varchar NOT NULL DEFAULT 'UTC';
ALTER TABLE practitioner
    ALTER COLUMN email DROP NOT NULL,
    ALTER COLUMN password_hash DROP NOT NULL,
    ADD COLUMN lock_minutes integer NOT NULL DEFAULT 10
        CONSTRAINT ck_practitioner_lock_minutes CHECK (lock_minutes BETWEEN 1 AND 120),
    ADD COLUMN device_key bytea,
    ADD CONSTRAINT ck_practitioner_account CHECK ((email IS NULL) = (password_hash IS NULL)),
    ADD CONSTRAINT uq_practitioner_id_practice_id UNIQUE (id, practice_id);
UPDATE practitioner SET device_key = uuid_send(gen_random_uuid()) || uuid_send(gen_random_uuid());
ALTER TABLE practitioner ALTER COLUMN device_key SET NOT NULL;
ALTER TABLE sign_in_attempt
    ADD COLUMN address varchar NOT NULL DEFAULT '',
    ADD COLUMN succeeded boolean NOT NULL DEFAULT false;
DELETE FROM sign_in_attempt;  -- names in the clear: from now on only their hashes are kept
DELETE FROM auth_session;  -- a token names its practice from now on: everybody signs in once more
ALTER TABLE auth_session ADD COLUMN practice_id uuid NOT NULL;
ALTER TABLE visit ADD COLUMN treatment varchar NOT NULL DEFAULT 'not_begun'
    CONSTRAINT ck_visit_treatment CHECK (treatment IN ('not_begun', 'open', 'over'));
ALTER TABLE visit ADD COLUMN felt jsonb;  -- of earlier treatments it is filled in after the migration (store/setup.py)
UPDATE visit SET treatment = CASE WHEN told.over THEN 'over' ELSE 'open' END
    FROM (
        SELECT visit_id, bool_or(
            body ->> 'kind' = 'end'
            OR (body ->> 'kind' = 'reaction' AND body ->> 'reaction' IN ('dizzy', 'asks_to_stop'))
        ) AS over
        FROM treatment_event GROUP BY visit_id
    ) AS told
    WHERE told.visit_id = visit.id;
ALTER TABLE treatment_event
    ADD COLUMN received_at timestamptz NOT NULL DEFAULT now(),
    ADD COLUMN clock_offset_ms integer NOT NULL DEFAULT 0,
    ADD COLUMN disputed varchar,
    ADD CONSTRAINT uq_treatment_event_id_person_id UNIQUE (id, person_id);
CREATE TABLE settlement (
    id uuid CONSTRAINT pk_settlement PRIMARY KEY,
    practice_id uuid NOT NULL,
    person_id uuid NOT NULL,
    event_id uuid NOT NULL,
    how varchar NOT NULL CONSTRAINT ck_settlement_how CHECK (how IN ('happened', 'set_aside')),
    note varchar NOT NULL DEFAULT '',
    settled_by uuid NOT NULL,
    settled_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT uq_settlement_event_id UNIQUE (event_id),
    CONSTRAINT fk_settlement_person_id_practice_id FOREIGN KEY (person_id, practice_id)
        REFERENCES person (id, practice_id),
    CONSTRAINT fk_settlement_settled_by_practice_id FOREIGN KEY (settled_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT fk_settlement_event_id_person_id FOREIGN KEY (event_id, person_id)
        REFERENCES treatment_event (id, person_id)
);
CREATE INDEX ix_settlement_person_id ON settlement (person_id);
CREATE INDEX ix_practitioner_practice_id ON practitioner (practice_id);
CREATE INDEX ix_auth_session_practitioner_id ON auth_session (practitioner_id);
CREATE INDEX ix_sign_in_attempt_address_at ON sign_in_attempt (address, at);
DROP INDEX ix_visit_starts_at;
CREATE INDEX ix_visit_practice_id_starts_at ON visit (practice_id, starts_at);
CREATE INDEX ix_visit_person_id_starts_at ON visit (person_id, starts_at);
CREATE INDEX ix_complaint_practice_id ON complaint (practice_id);
CREATE INDEX ix_rating_visit_id_complaint_id ON rating (visit_id, complaint_id);
CREATE INDEX ix_rating_complaint_id_rated_at ON rating (complaint_id, rated_at);
CREATE INDEX ix_audit_practice_id_at ON audit (practice_id, at);
ALTER INDEX ix_treatment_event_visit_seq RENAME TO ix_treatment_event_visit_id_seq;
"""

# Deleting a person or a visit no longer takes with it what is only ever added: the key stands in the way instead.
NO_CASCADE = """
DO $$
DECLARE key record;
BEGIN
    FOR key IN
        SELECT conrelid::regclass AS owner, conname, pg_get_constraintdef(oid) AS said
        FROM pg_constraint
        WHERE contype = 'f' AND confdeltype = 'c' AND connamespace = 'public'::regnamespace
    LOOP
        EXECUTE format('ALTER TABLE %s DROP CONSTRAINT %I', key.owner, key.conname);
        EXECUTE format(
            'ALTER TABLE %s ADD CONSTRAINT %I %s',
            key.owner, key.conname, replace(key.said, ' ON DELETE CASCADE', '')
        );
    END LOOP;
END $$;
"""

# Every foreign key and unique constraint is called by its kind, its table and its columns.
ONE_RULE = """
DO $$
DECLARE key record;
BEGIN
    FOR key IN
        SELECT c.conrelid::regclass AS owner, c.conname,
            CASE c.contype WHEN 'f' THEN 'fk_' ELSE 'uq_' END || t.relname || '_' || (
                SELECT string_agg(a.attname, '_' ORDER BY place.rank)
                FROM unnest(c.conkey) WITH ORDINALITY AS place (number, rank)
                JOIN pg_attribute AS a ON a.attrelid = c.conrelid AND a.attnum = place.number
            ) AS wanted
        FROM pg_constraint AS c JOIN pg_class AS t ON t.oid = c.conrelid
        WHERE c.contype IN ('f', 'u') AND c.connamespace = 'public'::regnamespace
    LOOP
        IF key.conname <> key.wanted THEN
            EXECUTE format('ALTER TABLE %s RENAME CONSTRAINT %I TO %I', key.owner, key.conname, key.wanted);
        END IF;
    END LOOP;
END $$;
"""

# Sign-in is the one moment at which no practice is known yet. It runs as the owner, who may read practitioners for it.
SIGN_IN = """
CREATE FUNCTION sign_in_lookup(wanted varchar)
    RETURNS TABLE (practitioner_id uuid, practice_id uuid, password_hash varchar)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public
    AS $$ SELECT p.id, p.practice_id, p.password_hash FROM public.practitioner AS p WHERE p.email = wanted $$;
REVOKE ALL ON FUNCTION sign_in_lookup(varchar) FROM PUBLIC;
CREATE POLICY sign_in ON practitioner FOR SELECT TO CURRENT_USER USING (true);
"""

# The only way in which a record goes: the whole of a person, with a reason, noted. It sees one practice only.
ERASE = """
CREATE FUNCTION erase_person(wanted uuid, by uuid, reason varchar) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public
    AS $$
DECLARE here uuid := nullif(current_setting('acuthesis.practice', true), '')::uuid;
BEGIN
    IF length(btrim(reason)) < 3 THEN
        RAISE EXCEPTION 'erasing a person needs a reason' USING ERRCODE = 'check_violation';
    END IF;
    IF NOT EXISTS (SELECT FROM public.person WHERE id = wanted AND practice_id = here) THEN
        RAISE EXCEPTION 'there is no such person in this practice' USING ERRCODE = 'no_data_found';
    END IF;
    DELETE FROM public.settlement WHERE person_id = wanted;
    DELETE FROM public.treatment_event WHERE person_id = wanted;
    DELETE FROM public.rating WHERE person_id = wanted;
    DELETE FROM public.draft WHERE person_id = wanted;
    DELETE FROM public.finding WHERE person_id = wanted;
    DELETE FROM public.threshold WHERE person_id = wanted;
    DELETE FROM public.clearance WHERE person_id = wanted;
    DELETE FROM public.screening WHERE person_id = wanted;
    DELETE FROM public.measure WHERE person_id = wanted;
    DELETE FROM public.visit WHERE person_id = wanted;
    DELETE FROM public.complaint WHERE person_id = wanted;
    DELETE FROM public.person WHERE id = wanted;
    INSERT INTO public.audit (practice_id, practitioner_id, person_id, action)
        VALUES (here, by, wanted, 'record erased: ' || reason);
END $$;
REVOKE ALL ON FUNCTION erase_person(uuid, uuid, varchar) FROM PUBLIC;
"""

# Table → its column that names a practitioner.
DONE_BY = {
    "auth_session": "practitioner_id",
    "screening": "answered_by",
    "clearance": "recorded_by",
    "visit": "practitioner_id",
    "draft": "kept_by",
    "layer": "changed_by",
    "audit": "practitioner_id",
}
# Where the key was before, and what it was called.
WAS = {"auth_session": "", "screening": "", "clearance": "_practitioner", "visit": "", "draft": "_practitioner"}
NEVER_DELETED = ("practice", "practitioner", "person", "complaint", "visit", "layer")
GUARDED = (
    "person",
    "screening",
    "clearance",
    "threshold",
    "complaint",
    "measure",
    "visit",
    "rating",
    "treatment_event",
    "finding",
    "own_entry",
    "draft",
    "protocol",
    "layer",
    "audit",
)


def _forced(on: bool) -> None:
    """Let the owner see rows of every practice for the length of the migration, and take it back.

    Also for its new keys: PostgreSQL checks them as the owner, who behind the wall would find nothing that they name.
    """
    for table in GUARDED:
        op.execute(f"ALTER TABLE {table} {'' if on else 'NO '}FORCE ROW LEVEL SECURITY")


def upgrade() -> None:
    _forced(False)
    op.execute(COLUMNS)
    op.execute(NO_CASCADE)
    for table, column in DONE_BY.items():
        if table in WAS:
            op.execute(f"ALTER TABLE {table} DROP CONSTRAINT fk_{table}_{column}{WAS[table]}")
        op.execute(
            f"ALTER TABLE {table} ADD CONSTRAINT fk_{table}_{column}_practice_id "
            f"FOREIGN KEY ({column}, practice_id) REFERENCES practitioner (id, practice_id)"
        )
    op.execute(ONE_RULE)
    _forced(True)
    for table in ("practitioner", "practice", "auth_session"):
        op.execute(f"REVOKE ALL ON {table} FROM {app_role()}")
    guard("practitioner", "INSERT, UPDATE")
    guard("practice", "INSERT, UPDATE", OWN_PRACTICE.replace("practice_id", "id", 1))
    guard("auth_session", "INSERT, DELETE")
    guard("settlement", "INSERT")
    for table in NEVER_DELETED:
        op.execute(f"REVOKE DELETE, TRUNCATE ON {table} FROM {app_role()}")
    op.execute(SIGN_IN)
    op.execute(ERASE)
    grant("EXECUTE", "FUNCTION sign_in_lookup(varchar)")
    grant("EXECUTE", "FUNCTION erase_person(uuid, uuid, varchar)")


def downgrade() -> None:
    op.execute("DROP FUNCTION erase_person(uuid, uuid, varchar)")
    op.execute("DROP POLICY sign_in ON practitioner")
    op.execute("DROP FUNCTION sign_in_lookup(varchar)")
    op.execute("DROP TABLE settlement")
    for table in ("practitioner", "practice", "auth_session"):
        op.execute(f"DROP POLICY own_practice ON {table}")
        op.execute(f"ALTER TABLE {table} NO FORCE ROW LEVEL SECURITY")
        op.execute(f"ALTER TABLE {table} DISABLE ROW LEVEL SECURITY")
    for table in ("practice", "practitioner", "person", "complaint", "visit", "auth_session"):
        grant("SELECT, INSERT, UPDATE, DELETE", table)
    _forced(False)
    for table, column in DONE_BY.items():
        op.execute(f"ALTER TABLE {table} DROP CONSTRAINT fk_{table}_{column}_practice_id")
        if table in WAS:
            op.execute(
                f"ALTER TABLE {table} ADD CONSTRAINT fk_{table}_{column}{WAS[table]} "
                f"FOREIGN KEY ({column}) REFERENCES practitioner (id)"
            )
    # Events that could not be applied have no place in the older schema, and people without an account none either.
    op.execute(
        """
        DELETE FROM treatment_event WHERE disputed IS NOT NULL;
        UPDATE practitioner SET email = id || '@no-account.invalid', password_hash = '' WHERE email IS NULL;
        ALTER TABLE practitioner
            DROP CONSTRAINT uq_practitioner_id_practice_id, DROP CONSTRAINT ck_practitioner_account,
            DROP COLUMN lock_minutes, DROP COLUMN device_key,
            ALTER COLUMN email SET NOT NULL, ALTER COLUMN password_hash SET NOT NULL;
        ALTER TABLE practice DROP COLUMN time_zone;
        ALTER TABLE sign_in_attempt DROP COLUMN address, DROP COLUMN succeeded;
        ALTER TABLE auth_session DROP COLUMN practice_id;
        ALTER TABLE visit DROP COLUMN treatment, DROP COLUMN felt;
        ALTER TABLE treatment_event DROP CONSTRAINT uq_treatment_event_id_person_id,
            DROP COLUMN received_at, DROP COLUMN clock_offset_ms, DROP COLUMN disputed;
        DROP INDEX ix_practitioner_practice_id, ix_auth_session_practitioner_id, ix_visit_person_id_starts_at,
            ix_complaint_practice_id, ix_rating_visit_id_complaint_id, ix_rating_complaint_id_rated_at;
        DROP INDEX IF EXISTS ix_visit_practice_id_starts_at, ix_audit_practice_id_at, ix_sign_in_attempt_address_at;
        CREATE INDEX ix_visit_starts_at ON visit (starts_at);
        ALTER INDEX ix_treatment_event_visit_id_seq RENAME TO ix_treatment_event_visit_seq;
        """
    )
    _forced(True)
