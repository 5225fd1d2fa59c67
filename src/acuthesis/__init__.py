"""Acuthesis: finds points on a person's own body, composes, conducts, and follows the response."""

__version__ = "0.5.0"
