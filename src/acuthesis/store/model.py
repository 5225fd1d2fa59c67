"""The tables, all under one name. Everything about a person carries its practice, and the database itself keeps
practices apart (row-level security); what is recorded of a treatment is only ever added."""

from acuthesis.store.tables.base import NAMING, Base
from acuthesis.store.tables.guards import GUARDED, NEVER_DELETED, ONLY_ADDED
from acuthesis.store.tables.own import AtlasTextRow, LayerRow, OwnEntryRow, ProtocolRow
from acuthesis.store.tables.person import (
    ClearanceRow,
    ComplaintRow,
    ConsentRow,
    FindingRow,
    LetterRow,
    MeasureRow,
    PersonRow,
    ScreeningRow,
    StoryRow,
    ThresholdRow,
)
from acuthesis.store.tables.practice import (
    AuditRow,
    AuthSessionRow,
    OneTimeLinkRow,
    PlaceRow,
    PracticeRow,
    PractitionerRow,
    SignInAttemptRow,
)
from acuthesis.store.tables.visit import (
    AddendumRow,
    DraftRow,
    PlannedVisitRow,
    RatingRow,
    SettlementRow,
    TreatmentEventRow,
    VisitRow,
)

__all__ = [
    "GUARDED",
    "NAMING",
    "NEVER_DELETED",
    "ONLY_ADDED",
    "AddendumRow",
    "AtlasTextRow",
    "AuditRow",
    "AuthSessionRow",
    "Base",
    "ClearanceRow",
    "ComplaintRow",
    "ConsentRow",
    "DraftRow",
    "FindingRow",
    "LayerRow",
    "LetterRow",
    "MeasureRow",
    "OneTimeLinkRow",
    "OwnEntryRow",
    "PersonRow",
    "PlaceRow",
    "PlannedVisitRow",
    "PracticeRow",
    "PractitionerRow",
    "ProtocolRow",
    "RatingRow",
    "ScreeningRow",
    "SettlementRow",
    "SignInAttemptRow",
    "StoryRow",
    "ThresholdRow",
    "TreatmentEventRow",
    "VisitRow",
]
