"""Ratings, their import, and the outcomes they give."""
