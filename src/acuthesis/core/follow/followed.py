"""One series of ratings from end to end, without a database: the outcome, the analysis, and what comes next."""

from acuthesis.core.follow.analysis import Analysis, analyse
from acuthesis.core.follow.cautions import cautions
from acuthesis.core.follow.decide import Facts, Proposal, decide
from acuthesis.core.follow.outcome import Outcome, judge
from acuthesis.core.follow.ratings import Series


class Followed(Outcome):
    """An outcome with its analysis and the step that is proposed."""

    analysis: Analysis
    proposal: Proposal


def followed(series: Series) -> Followed:
    """Follow one series; nothing else is known of the person."""
    outcome = judge(series)
    analysis = analyse(series, outcome)
    is_better = int(outcome.trend == "better")
    warned = cautions(series, outcome, looked_at=1, better=is_better, events=[])
    facts = Facts(outcome=outcome, carry_over=analysis.carry_over, needed=analysis.needed, cautions=warned)
    return Followed(**outcome.model_dump(), analysis=analysis, proposal=decide(facts))
