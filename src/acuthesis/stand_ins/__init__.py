"""Small simulated devices."""
