"""The craft: pure Python with no web, no database, no clock and no randomness it was not given."""
