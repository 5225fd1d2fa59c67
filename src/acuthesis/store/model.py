"""The tables, all under one name. Everything about a person carries its practice, and the database itself keeps
practices apart (row-level security); what is recorded of a treatment is only ever added."""

from acuthesis.store.tables.base import NAMING, Base
from acuthesis.store.tables.follow import DecisionRow, LogRow, OutcomeRow
from acuthesis.store.tables.guards import GUARDED, NEVER_DELETED, ONLY_ADDED
from acuthesis.store.tables.home import DiaryRow, HomeFlagRow, HomePlanRow
from acuthesis.store.tables.own import AtlasTextRow, LayerRow, OwnEntryRow, ProtocolRow
from acuthesis.store.tables.papers import LetterTemplateRow, PaperRow
from acuthesis.store.tables.person import (
    ActRatingRow,
    ClearanceRow,
    ComplaintAnswersRow,
    ComplaintPlaceRow,
    ComplaintRow,
    ConfirmationRow,
    ConsentRow,
    EpisodeRow,
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
    "ActRatingRow",
    "AddendumRow",
    "AtlasTextRow",
    "AuditRow",
    "AuthSessionRow",
    "Base",
    "ClearanceRow",
    "ComplaintAnswersRow",
    "ComplaintPlaceRow",
    "ComplaintRow",
    "ConfirmationRow",
    "ConsentRow",
    "DecisionRow",
    "DiaryRow",
    "DraftRow",
    "EpisodeRow",
    "FindingRow",
    "HomeFlagRow",
    "HomePlanRow",
    "LayerRow",
    "LetterRow",
    "LetterTemplateRow",
    "LogRow",
    "MeasureRow",
    "OneTimeLinkRow",
    "OutcomeRow",
    "OwnEntryRow",
    "PaperRow",
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
