"""Following a person over visits: course, decisions, log; follow-up of the whole practice."""
