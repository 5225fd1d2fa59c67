"""Use cases: what a request needs, in which order, in which transaction, and who may."""
