"""A reason for a decision, shared by everything that decides."""

from typing import Literal

from pydantic import BaseModel, ConfigDict


class Reason(BaseModel):
    """Why something is decided: the rule or question behind it, and a sentence for people.

    `clear` is the id under which a doctor's word lifts a referral; empty where nothing lifts it.
    """

    model_config = ConfigDict(frozen=True)

    rule: str
    severity: Literal["emergency", "refer", "ask", "refuse", "limit", "note"]
    text: str
    clear: str = ""
