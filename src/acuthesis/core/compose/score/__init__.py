"""What a score is, and how its stops are laid out in time and held against limits."""
