"""Fitted bodies, places on them, and plates."""
