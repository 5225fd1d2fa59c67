"""Composing: complaints, doses, choice and order of stops, the score."""
