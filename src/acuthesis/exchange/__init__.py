"""Open formats in and out: JSON, SVG, PDF."""
