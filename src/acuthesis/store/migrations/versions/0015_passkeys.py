"""Passkeys (WebAuthn): public keys of accounts, and challenges that have been answered, each of which counts once."""

from alembic import op

from acuthesis.store.migrations.rights import app_role, grant, guard

revision = "0015"
down_revision = "0014"

TABLES = """
CREATE TABLE passkey (
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    practitioner_id UUID NOT NULL,
    credential_id BYTEA NOT NULL,
    public_key BYTEA NOT NULL,
    sign_count BIGINT DEFAULT 0 NOT NULL,
    name VARCHAR DEFAULT '' NOT NULL,
    created_at timestamptz DEFAULT now() NOT NULL,
    used_at timestamptz,
    CONSTRAINT pk_passkey PRIMARY KEY (id),
    CONSTRAINT uq_passkey_credential_id UNIQUE (credential_id),
    CONSTRAINT fk_passkey_practitioner_id_practice_id FOREIGN KEY(practitioner_id, practice_id)
        REFERENCES practitioner (id, practice_id)
);
CREATE INDEX ix_passkey_practitioner_id ON passkey (practitioner_id);
CREATE TABLE answered_challenge (
    hash BYTEA NOT NULL,
    until timestamptz NOT NULL,
    CONSTRAINT pk_answered_challenge PRIMARY KEY (hash)
);
"""
# Whose a passkey is, before any practice is in sight; told as the owner, like the account of an email.
LOOKUP = """
CREATE FUNCTION passkey_lookup(wanted bytea) RETURNS TABLE (practitioner_id uuid, practice_id uuid)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public
    AS $$ SELECT k.practitioner_id, k.practice_id FROM public.passkey AS k WHERE k.credential_id = wanted $$;
REVOKE ALL ON FUNCTION passkey_lookup(bytea) FROM PUBLIC;
CREATE POLICY by_credential ON passkey FOR SELECT TO CURRENT_USER USING (true);
"""


def upgrade() -> None:
    op.execute(TABLES)
    guard("passkey", "INSERT, UPDATE, DELETE")
    grant("SELECT, INSERT, DELETE", "answered_challenge")
    op.execute(LOOKUP)
    op.execute(f"GRANT EXECUTE ON FUNCTION passkey_lookup(bytea) TO {app_role()}")


def downgrade() -> None:
    op.execute("DROP FUNCTION passkey_lookup(bytea)")
    op.execute("DROP TABLE passkey")
    op.execute("DROP TABLE answered_challenge")
