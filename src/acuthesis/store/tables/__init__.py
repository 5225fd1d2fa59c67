"""The tables, by what they are about."""
