"""Treating: events, the treatment as a fold over them, soreness."""
