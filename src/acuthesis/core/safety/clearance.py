"""Clearance by a doctor, which lifts a referral: who gave it, when, what for, until when; and whether it is valid
today.
"""

from collections.abc import Iterable, Sequence
from datetime import date, datetime

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.verdict import verdict


class Clearance(BaseModel):
    """One clearance, or (`granted` false) the taking back of an earlier one. The newest for a flag counts.

    `flag`: the `clear` of the reason that it lifts. `by`: the doctor or clinic. `until`: the last day of it.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    flag: str = Field(min_length=1, max_length=60)
    by: str = Field(min_length=1, max_length=120)
    given_on: date
    what_for: str = Field(min_length=1, max_length=300)
    until: date
    granted: bool = True
    recorded_at: datetime

    @model_validator(mode="after")
    def _in_order(self) -> "Clearance":
        if self.until < self.given_on:
            raise ValueError(f"it would end ({self.until}) before it was given ({self.given_on})")
        return self


def raised_since(history: Sequence[tuple[datetime, Screening]]) -> dict[str, datetime]:
    """For each referral that the newest answers make, the time since when it has been answered without a break.

    `history`: answers with the time they were given, newest first, without clearances.

    >>> raised_since([])
    {}
    """
    since: dict[str, datetime] = {}
    standing: set[str] | None = None
    for at, screening in history:
        raised = {reason.clear for reason in verdict(screening).reasons if reason.clear}
        standing = raised if standing is None else standing & raised
        since.update(dict.fromkeys(standing, at))
    return since


def holding(clearances: Iterable[Clearance], since: dict[str, datetime], today: date) -> tuple[str, ...]:
    """The flags that are lifted today.

    A clearance holds for what was answered when it was recorded: a fever of last month that a doctor cleared says
    nothing of a fever that comes today.

    >>> holding([], {}, date(2026, 3, 1))
    ()
    """
    newest = {one.flag: one for one in sorted(clearances, key=lambda one: one.recorded_at)}
    return tuple(
        flag
        for flag, one in sorted(newest.items())
        if one.granted and one.given_on <= today <= one.until and flag in since and since[flag] <= one.recorded_at
    )
