"""Safety: screening, standing rules, pressure."""
