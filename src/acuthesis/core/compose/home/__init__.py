"""The plan for home."""
