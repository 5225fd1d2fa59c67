"""A screen of the person's own at a treatment: a short code that works once, then a key that ends with it."""

from alembic import op

from acuthesis.store.migrations.rights import app_role, erase_and_join, guard

revision = "0011"
down_revision = "0010"

TABLE = """
CREATE TABLE own_say (
    visit_id UUID NOT NULL,
    code_hash BYTEA,
    code_until timestamptz NOT NULL,
    key_hash BYTEA,
    made_by UUID NOT NULL,
    made_at timestamptz DEFAULT now() NOT NULL,
    opened_at timestamptz,
    ended_at timestamptz,
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    person_id UUID NOT NULL,
    CONSTRAINT pk_own_say PRIMARY KEY (id),
    CONSTRAINT fk_own_say_person_id_practice_id FOREIGN KEY(person_id, practice_id)
        REFERENCES person (id, practice_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_own_say_visit_id_person_id FOREIGN KEY(visit_id, person_id)
        REFERENCES visit (id, person_id) DEFERRABLE INITIALLY IMMEDIATE,
    CONSTRAINT fk_own_say_made_by_practice_id FOREIGN KEY(made_by, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT uq_own_say_code_hash UNIQUE (code_hash),
    CONSTRAINT uq_own_say_key_hash UNIQUE (key_hash),
    CONSTRAINT ck_own_say_opened CHECK ((key_hash IS NULL) = (opened_at IS NULL)),
    CONSTRAINT ck_own_say_code CHECK (code_hash IS NULL OR (opened_at IS NULL AND ended_at IS NULL))
);
CREATE INDEX ix_own_say_person_id ON own_say (person_id);
CREATE INDEX ix_own_say_visit_id ON own_say (visit_id);
"""
# A code is too short to name its practice. Which one it is of is told as the owner, and nothing else of it.
LOOKUP = """
CREATE FUNCTION own_say_lookup(wanted bytea) RETURNS uuid
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public
    AS $$ SELECT s.practice_id FROM public.own_say AS s WHERE s.code_hash = wanted $$;
REVOKE ALL ON FUNCTION own_say_lookup(bytea) FROM PUBLIC;
CREATE POLICY by_code ON own_say FOR SELECT TO CURRENT_USER USING (true);
"""
BEFORE = (
    "home_flag", "diary", "paper", "home_plan",
    "outcome", "decision", "log", "complaint_answers", "complaint_place", "confirmation", "act_rating", "episode",
    "settlement", "treatment_event", "rating", "draft", "addendum", "planned_visit", "consent", "story", "letter",
    "finding", "threshold", "clearance", "screening", "measure", "visit", "complaint",
)  # fmt: skip


def upgrade() -> None:
    op.execute(TABLE)
    guard("own_say", "INSERT, UPDATE")
    op.execute(LOOKUP)
    op.execute(f"GRANT EXECUTE ON FUNCTION own_say_lookup(bytea) TO {app_role()}")
    erase_and_join(("own_say", *BEFORE), audit_moves=True)


def downgrade() -> None:
    erase_and_join(BEFORE, audit_moves=True)
    op.execute("DROP FUNCTION own_say_lookup(bytea)")
    op.execute("DROP TABLE own_say")
