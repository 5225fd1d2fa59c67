"""Recomposing: the rest of a treatment composed anew from what was done, what is sore and what matters.

The rest is asked of the composer like a treatment of its own: as long as there is, in the position that the person is
in, without what was done or left, and with time kept for the second looks that wait. What comes of it replaces all
that has not begun.
"""

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.compose.choose.request import ComposeRequest, Done
from acuthesis.core.compose.knowledge.dose import Until
from acuthesis.core.compose.score.score import MOVE_S, PRESSED, DraftStop, Stop
from acuthesis.core.errors import NotAllowed
from acuthesis.core.message import message
from acuthesis.core.safety.touching import StopSide
from acuthesis.core.treat.second import second_visit
from acuthesis.core.treat.state import OVER, TreatmentState

ENOUGH = 0.5  # of its time: then a side counts as done
LOOKS_MOST = 0.4  # of what is left: no more than this is kept for second looks


class RestWish(BaseModel):
    """How the rest is to be: in so many minutes, without a side of a place, with a place that is under the hand."""

    model_config = ConfigDict(extra="forbid")

    minutes: float = Field(gt=0, le=180, allow_inf_nan=False)
    not_key: str | None = Field(None, max_length=64)
    not_side: Literal["left", "right"] | None = None
    add: str | None = Field(None, max_length=80)
    add_side: StopSide | None = None


def looks_s(treatment: TreatmentState, minutes: float) -> float:
    """Seconds that are kept for second looks of so many minutes: for those that fit into their share."""
    most = minutes * 60 * LOOKS_MOST
    return sum(one.cost_s for one in second_visit(treatment, most) if one.fits)


def rest_request(treatment: TreatmentState, request: ComposeRequest, wish: RestWish) -> ComposeRequest:
    """What the composer is asked for the rest.

    Parameters: request, what the whole treatment was composed for; wish, how the rest is to be.
    Raises: NotAllowed where nothing is under way.
    """
    if treatment.score is None or treatment.status in OVER:
        raise NotAllowed(message("rest-no-session-progress"), where="visit_id")
    done, left, open_ = _done(treatment), [], []
    for key, stop in treatment.stops.items():
        record = treatment.records[key]
        if stop.kind not in PRESSED:
            continue
        if record.left:
            left.append(stop.id)
        elif not record.started:
            open_.append(stop.id)
    if wish.not_side is not None:
        spared = treatment.stops.get(wish.not_key or treatment.current or "")
        if spared is not None and spared.kind in PRESSED:
            done.append(Done(id=spared.id, side=wish.not_side))
    pinned = [wish.add] if wish.add is not None else []
    remaining = max(wish.minutes - looks_s(treatment, wish.minutes) / 60, 0.1)
    current = treatment.stops.get(treatment.current or "")
    return request.model_copy(
        update={
            "remaining_minutes": remaining,
            "done": done,
            "avoid": sorted({*request.avoid, *left} - set(pinned)),
            "prefer": sorted({*request.prefer, *open_} - set(pinned)),
            "pinned": pinned,
            "resting": [],
            "lying": current.position if current is not None else None,
        }
    )


def _done(treatment: TreatmentState) -> list[Done]:
    """What was pressed for half of its time at least, side by side; of two sides in turn, those that were reached."""
    done: list[Done] = []
    for key, stop in treatment.stops.items():
        record = treatment.records[key]
        if stop.kind in ("rate", "breathe", "second_look", "close") or not record.started:
            continue
        if stop.side != "both" or stop.dose.together:
            if record.active_s >= ENOUGH * stop.duration_s or key == treatment.current:
                done.append(Done(id=stop.id, side=stop.side))
            continue
        half = stop.duration_s / 2
        first, second = ("left", "right") if stop.first == "left" else ("right", "left")
        if record.active_s >= ENOUGH * half or key == treatment.current:
            done.append(Done(id=stop.id, side=first))
        if record.active_s >= half * (1 + ENOUGH) or key == treatment.current:
            done.append(Done(id=stop.id, side=second))
    return done


def only_the_end(treatment: TreatmentState) -> list[Stop]:
    """What is left where no place fits any more: the quiet close and the last rating, as they were planned."""
    after = [stop for stop in treatment.stops.values() if stop.kind in ("close", "rate")]
    return [stop for stop in after if not treatment.records[stop.key].started]


def drafts_of_rest(treatment: TreatmentState, composed: Sequence[Stop], minutes: float) -> list[DraftStop]:
    """The composed rest as drafts with keys of their own; before its close, the time that is kept for second looks."""
    taken = set(treatment.records)
    drafts: list[DraftStop] = []
    for stop in composed:
        number = next(n for n in range(1, 200) if f"{stop.id}-{n}" not in taken)
        taken.add(f"{stop.id}-{number}")
        drafts.append(DraftStop.model_validate({**stop.model_dump(), "key": f"{stop.id}-{number}"}))
    seconds = looks_s(treatment, minutes)
    if seconds and not any(draft.kind == "second_look" for draft in drafts):
        at = next((n for n, one in enumerate(drafts) if one.kind in ("close", "rate")), len(drafts))
        near = drafts[at] if at < len(drafts) else drafts[-1]
        number = next(n for n in range(1, 200) if f"second_look-{n}" not in taken)
        look = near.model_copy(
            update={
                "key": f"second_look-{number}",
                "kind": "second_look",
                "id": "second_look",
                "side": "midline",
                "dose": Until(sign="eases", cap_s=min(max(seconds - MOVE_S, 5), 600)),
                "level": 1,
                "why": ("Reserved for rechecking the sorest points.",),
            }
        )
        drafts.insert(at, look)
    return drafts
