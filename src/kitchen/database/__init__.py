"""The database as Django talks to it: PostgreSQL, with a health check that costs no round trip."""
