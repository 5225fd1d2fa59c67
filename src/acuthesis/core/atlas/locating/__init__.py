"""Points and areas on one person: the place, the ways to it, how far it can be trusted, own entries."""
