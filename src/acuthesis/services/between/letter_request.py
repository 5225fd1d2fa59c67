"""What is asked of a letter or summary."""

import uuid
from datetime import date

from pydantic import BaseModel, ConfigDict

from acuthesis.exchange.letter_template import PaperKind


class PaperWish(BaseModel):
    """A letter as it is asked for: to whom, about which complaints (ids), what is asked of the reader, a note.

    `text` is the letter's own text as it was edited, with its marks; None: from the practice's template.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: PaperKind
    recipient: str = ""
    address: str = ""
    complaint_ids: tuple[uuid.UUID, ...]
    asked_of_you: str = ""
    note: str = ""
    answer_due: date | None = None
    text: str | None = None
