"""What migrations grant, and to whom: the application's role is the one that is configured, whatever its name."""

from collections.abc import Sequence

from alembic import op

ERASE = """
CREATE OR REPLACE FUNCTION erase_person(wanted uuid, by uuid, reason varchar) RETURNS void
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
    {deletes}
    DELETE FROM public.person WHERE id = wanted;
    INSERT INTO public.audit (practice_id, practitioner_id, person_id, action)
        VALUES (here, by, wanted, 'record erased: ' || reason);
END $$;
"""

# Two records of one person become one: every row of the second moves to the first, and nothing of it is lost. Keys that
# name a person wait until all of it has moved.
JOIN = """
CREATE OR REPLACE FUNCTION join_persons(kept uuid, other uuid, by uuid) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public
    AS $$
DECLARE here uuid := nullif(current_setting('acuthesis.practice', true), '')::uuid;
BEGIN
    IF kept = other OR (SELECT count(*) FROM public.person WHERE id IN (kept, other) AND practice_id = here) <> 2 THEN
        RAISE EXCEPTION 'there are no such two people in this practice' USING ERRCODE = 'no_data_found';
    END IF;
    SET CONSTRAINTS ALL DEFERRED;
    {moves}
    {audit}
    DELETE FROM public.person WHERE id = other;
    INSERT INTO public.audit (practice_id, practitioner_id, person_id, action)
        VALUES (here, by, kept, 'records joined');
END $$;
REVOKE ALL ON FUNCTION join_persons(uuid, uuid, uuid) FROM PUBLIC;
"""

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


def erase_person(tables: Sequence[str]) -> None:
    """The owner's function that erases a person, with everything of theirs in some tables; children first."""
    deletes = "\n    ".join(f"DELETE FROM public.{table} WHERE person_id = wanted;" for table in tables)
    op.execute(ERASE.replace("{deletes}", deletes))


# Until 0012 a merge moved the rows of the audit; since then it notes whose they are.
MOVED = "UPDATE public.audit SET person_id = kept WHERE person_id = other AND practice_id = here;"
NOTED = """UPDATE public.person SET merged_ids = merged_ids || other || (
        SELECT p.merged_ids FROM public.person p WHERE p.id = other) WHERE id = kept;"""


def erase_and_join(tables: Sequence[str], audit_moves: bool = False) -> None:
    """The same, and the one that moves everything of one person to another."""
    erase_person(tables)
    moves = "\n    ".join(f"UPDATE public.{table} SET person_id = kept WHERE person_id = other;" for table in tables)
    op.execute(JOIN.replace("{moves}", moves).replace("{audit}", MOVED if audit_moves else NOTED))
