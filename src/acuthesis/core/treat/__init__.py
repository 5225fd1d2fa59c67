"""Treating: events, the session as a fold over them, soreness."""
