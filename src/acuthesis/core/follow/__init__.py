"""Following: change over visits, and the next step."""
