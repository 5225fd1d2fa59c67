"""Points and areas as data: what they are, how they are grouped and searched."""
