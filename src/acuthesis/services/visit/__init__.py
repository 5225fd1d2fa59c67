"""One visit: composing, preparing, treating, the person's screen, writing up, the pack for a device offline."""
