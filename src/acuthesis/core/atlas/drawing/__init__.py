"""Flat drawings of places and areas on one person, as SVG."""
