"""The roles of the embedded database: the administrator makes it, the owner migrates, the application writes records
and cannot take one back, the reader reads for reports. What each may do with a table stands in
kitchen/database/grants.py.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable, Mapping

from .paths import LOCAL

ADMIN, OWNER, APP, READER = "ember_admin", "ember_owner", "app", "ember_reader"
FORMAT = 1  # of what is handed over: raised when it changes, so that it is done again
PASSWORD_FILES = {
    ADMIN: "db-admin-password", OWNER: "db-owner-password", APP: "db-password", READER: "db-reader-password",
}  # fmt: skip


def password_of(role: str) -> str:
    """The role's password, made once for this checkout."""
    path = LOCAL / PASSWORD_FILES[role]
    if not path.exists():
        LOCAL.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(24))
    return path.read_text().strip()


def make_roles(passwords: Mapping[str, str]) -> str:
    """SQL that makes the three roles that may sign in besides the administrator, with their passwords."""
    lines = []
    for role in (OWNER, APP, READER):
        lines.append(
            f"DO $$ BEGIN IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '{role}')"
            f" THEN CREATE ROLE {role}; END IF; END $$;"
        )
        lines.append(
            f"ALTER ROLE {role} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION PASSWORD '{passwords[role]}';"
        )
    return "\n".join(lines)


def hand_over(database: str) -> str:
    """SQL that gives a database and all that is in it to the owner, and lets the others in."""
    return f"""
ALTER DATABASE {database} OWNER TO {OWNER};
REVOKE ALL ON DATABASE {database} FROM PUBLIC;
GRANT CONNECT ON DATABASE {database} TO {APP}, {READER};
ALTER SCHEMA public OWNER TO {OWNER};
REVOKE CREATE ON SCHEMA public FROM PUBLIC;
GRANT USAGE ON SCHEMA public TO {APP}, {READER};
CREATE EXTENSION IF NOT EXISTS btree_gist;
DO $$ DECLARE found record; BEGIN
  FOR found IN
    SELECT c.oid::regclass::text AS name, c.relkind FROM pg_class c
    WHERE c.relnamespace = 'public'::regnamespace AND c.relkind IN ('r', 'p', 'v', 'S')
      AND NOT EXISTS (SELECT FROM pg_depend d WHERE d.objid = c.oid AND d.deptype IN ('a', 'i', 'e'))
  LOOP
    EXECUTE format('ALTER %s %s OWNER TO {OWNER}',
      CASE found.relkind WHEN 'S' THEN 'SEQUENCE' WHEN 'v' THEN 'VIEW' ELSE 'TABLE' END, found.name);
  END LOOP;
  FOR found IN
    SELECT p.oid::regprocedure::text AS name FROM pg_proc p
    WHERE p.pronamespace = 'public'::regnamespace AND p.prokind = 'f'
      AND NOT EXISTS (SELECT FROM pg_depend d WHERE d.objid = p.oid AND d.deptype = 'e')
  LOOP
    EXECUTE format('ALTER FUNCTION %s OWNER TO {OWNER}', found.name);
  END LOOP;
  FOR found IN
    SELECT t.oid::regtype::text AS name FROM pg_type t LEFT JOIN pg_class c ON c.oid = t.typrelid
    WHERE t.typnamespace = 'public'::regnamespace AND t.typtype IN ('e', 'd', 'c')
      AND (c.oid IS NULL OR c.relkind = 'c')
      AND NOT EXISTS (SELECT FROM pg_depend d WHERE d.objid = t.oid AND d.deptype = 'e')
  LOOP
    EXECUTE format('ALTER TYPE %s OWNER TO {OWNER}', found.name);
  END LOOP;
END $$;
"""


def set_up(ask: Callable[[str, str], str], database: str, passwords: Mapping[str, str]) -> None:
    """Make roles and database as its administrator; `ask` runs a script in a database."""
    ask(make_roles(passwords), "postgres")
    if ask(f"SELECT 1 FROM pg_database WHERE datname = '{database}'", "postgres") != "1":
        ask(f"CREATE DATABASE {database} OWNER {OWNER}", "postgres")
    ask(hand_over(database), database)


# Of a cluster from before the roles, whose application was its first superuser, which can be renamed but not demoted.
STAND_IN = "ember_stand_in"
MAKE_A_STAND_IN = f"DROP ROLE IF EXISTS {STAND_IN}; CREATE ROLE {STAND_IN} SUPERUSER LOGIN PASSWORD '{{password}}'"
RENAME_THE_FIRST = f"ALTER ROLE {APP} RENAME TO {ADMIN}; ALTER ROLE {ADMIN} PASSWORD '{{password}}'"
DROP_THE_STAND_IN = f"DROP ROLE {STAND_IN}"
