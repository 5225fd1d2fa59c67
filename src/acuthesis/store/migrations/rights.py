"""What migrations grant, and to whom: the application's role is the one that is configured, whatever its name."""

from alembic import op

OWN_PRACTICE = "practice_id = nullif(current_setting('acuthesis.practice', true), '')::uuid"


def app_role() -> str:
    """The application's role, quoted. Set by `migrate`."""
    role = str(op.get_context().config.attributes["app_role"])  # type: ignore[union-attr]
    return '"' + role.replace('"', '""') + '"'


def grant(rights: str, on: str) -> None:
    """Grant rights on a table or function to the application."""
    op.execute(f"GRANT {rights} ON {on} TO {app_role()}")


def guard(table: str, writes: str, mine: str = OWN_PRACTICE) -> None:
    """Row-level security by practice, also for the owner, and what the application may do behind it."""
    op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
    op.execute(f"ALTER TABLE {table} FORCE ROW LEVEL SECURITY")
    op.execute(f"CREATE POLICY own_practice ON {table} USING ({mine})")
    grant(f"SELECT, {writes}", table)
