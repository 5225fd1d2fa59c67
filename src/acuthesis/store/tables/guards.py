"""Which tables the database guards, and what the application may do in each."""

# Tables that row-level security guards by their practice; a test checks that every table with a practice is here. The
# practice itself is guarded by its id.
GUARDED = (
    "practitioner",
    "one_time_link",
    "place",
    "auth_session",
    "person",
    "screening",
    "clearance",
    "threshold",
    "complaint",
    "measure",
    "visit",
    "rating",
    "treatment_event",
    "settlement",
    "finding",
    "consent",
    "story",
    "letter",
    "addendum",
    "planned_visit",
    "own_entry",
    "draft",
    "protocol",
    "layer",
    "audit",
)
ONLY_ADDED = (
    "screening",
    "clearance",
    "threshold",
    "measure",
    "rating",
    "treatment_event",
    "settlement",
    "finding",
    "consent",
    "story",
    "addendum",
    "draft",
    "audit",
)
# Changed, and never deleted by the application: a person's record goes as a whole, by the owner's `erase_person`.
NEVER_DELETED = (
    "practice",
    "practitioner",
    "person",
    "complaint",
    "visit",
    "layer",
    "place",
    "letter",
    "planned_visit",
)
