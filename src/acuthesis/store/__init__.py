"""The database: tables, queries, migrations."""
