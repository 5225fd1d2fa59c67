"""Sessions: locked on the server, ended when idle, with the device and address they belong to; security notices."""

from alembic import op

from acuthesis.store.migrations.rights import guard

revision = "0012"
down_revision = "0011"

TABLES = """
CREATE TABLE device (
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    practitioner_id UUID NOT NULL,
    token_hash BYTEA NOT NULL,
    name VARCHAR DEFAULT '' NOT NULL,
    first_seen_at timestamptz DEFAULT now() NOT NULL,
    last_seen_at timestamptz DEFAULT now() NOT NULL,
    CONSTRAINT pk_device PRIMARY KEY (id),
    CONSTRAINT uq_device_token_hash UNIQUE (token_hash),
    CONSTRAINT fk_device_practitioner_id_practice_id FOREIGN KEY(practitioner_id, practice_id)
        REFERENCES practitioner (id, practice_id)
);
CREATE INDEX ix_device_practitioner_id ON device (practitioner_id);
CREATE TABLE notice (
    id UUID NOT NULL,
    practice_id UUID NOT NULL,
    practitioner_id UUID NOT NULL,
    session_id UUID,
    kind VARCHAR NOT NULL,
    device VARCHAR DEFAULT '' NOT NULL,
    address VARCHAR DEFAULT '' NOT NULL,
    at timestamptz DEFAULT now() NOT NULL,
    seen_at timestamptz,
    CONSTRAINT pk_notice PRIMARY KEY (id),
    CONSTRAINT fk_notice_practitioner_id_practice_id FOREIGN KEY(practitioner_id, practice_id)
        REFERENCES practitioner (id, practice_id),
    CONSTRAINT ck_notice_kind CHECK (kind IN ('new_device', 'factor_on', 'factor_off', 'passkey_added',
        'passkey_removed', 'codes_stopped', 'password_changed', 'pin_set'))
);
CREATE INDEX ix_notice_practitioner_id ON notice (practitioner_id);
"""
COLUMNS = """
ALTER TABLE auth_session ADD COLUMN address VARCHAR NOT NULL DEFAULT '', ADD COLUMN covered_at timestamptz;
ALTER TABLE practice ADD COLUMN idle_minutes INTEGER NOT NULL DEFAULT 30
    CONSTRAINT ck_practice_idle_minutes CHECK (idle_minutes BETWEEN 5 AND 720);
ALTER TABLE practitioner ADD COLUMN wrong_codes INTEGER NOT NULL DEFAULT 0,
    ADD COLUMN codes_stopped_at timestamptz,
    ADD COLUMN pin_hash VARCHAR,
    ADD COLUMN wrong_pins INTEGER NOT NULL DEFAULT 0;
-- A device whose clock was reset says 1970.
ALTER TABLE treatment_event ALTER COLUMN clock_offset_ms TYPE BIGINT;
"""
# However a session is deleted (signed out, ended elsewhere, expired), the streams that belong to it hear of it.
ENDED = """
CREATE FUNCTION tell_session_ended() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('session_ended', OLD.id::text);
    RETURN OLD;
END $$;
CREATE TRIGGER session_ended AFTER DELETE ON auth_session FOR EACH ROW EXECUTE FUNCTION tell_session_ended();
"""


def upgrade() -> None:
    op.execute(TABLES)
    guard("device", "INSERT, UPDATE, DELETE")
    guard("notice", "INSERT, UPDATE")
    op.execute(COLUMNS)
    op.execute(ENDED)


def downgrade() -> None:
    op.execute("DROP TRIGGER session_ended ON auth_session")
    op.execute("DROP FUNCTION tell_session_ended()")
    op.execute("ALTER TABLE practitioner DROP COLUMN wrong_codes, DROP COLUMN codes_stopped_at, DROP COLUMN pin_hash")
    op.execute("ALTER TABLE practitioner DROP COLUMN wrong_pins")
    op.execute("ALTER TABLE practice DROP COLUMN idle_minutes")
    op.execute("ALTER TABLE treatment_event ALTER COLUMN clock_offset_ms TYPE INTEGER")
    op.execute("ALTER TABLE auth_session DROP COLUMN address, DROP COLUMN covered_at")
    op.execute("DROP TABLE notice")
    op.execute("DROP TABLE device")
