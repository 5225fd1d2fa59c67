"""The frame of a session: talk and first rating, arriving, rests, closing, rating again; and the second look in it."""

from dataclasses import dataclass, replace

from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.knowledge.dose import Dose, DoseDefault, Hold, Until, duration_s, paced, stretched
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.knowledge.weights import weights
from acuthesis.core.compose.score.score import MOVE_S, StopKind


@dataclass(frozen=True)
class FrameStop:
    """One stop of the frame around the pressing (rating, arriving, second look, quiet close): its dose, and why it is
    there.
    """

    id: str
    kind: StopKind
    dose: Dose
    why: str

    @property
    def seconds(self) -> float:
        """What it takes, the move to it included."""
        return duration_s(self.dose) + MOVE_S


@dataclass(frozen=True)
class Frame:
    """The moments before the work and after it, and what a rest is."""

    before: tuple[FrameStop, ...]
    after: tuple[FrameStop, ...]
    rest: FrameStop

    @property
    def seconds(self) -> float:
        """What the frame takes of the minutes."""
        return sum(moment.seconds for moment in (*self.before, *self.after)) - MOVE_S

    def with_time(self, spare_s: float, stay_s: float | None = None) -> tuple["Frame", float]:
        """The frame with a longer talk, arrival and close, and the seconds that this takes of `spare_s`. `stay_s`: what
        is left of the longest stay in one position, where the person has one.
        """
        table, spent = weights(), 0.0
        room = spare_s if stay_s is None else max(min(spare_s, stay_s), 0.0)
        longest = {
            "first_rating": table.talk_longest_s,
            "arrive": table.arrive_longest_s,
            "close": table.close_longest_s,
        }
        made: dict[str, FrameStop] = {}
        for id in ("close", "arrive", "first_rating"):
            moment = next((one for one in (*self.before, *self.after) if one.id == id), None)
            if moment is None:
                continue
            dose = stretched(moment.dose, min(duration_s(moment.dose) + room - spent, longest[id]))
            gained = duration_s(dose) - duration_s(moment.dose)
            if 0 < gained <= room - spent:
                made[id] = replace(moment, dose=dose)
                spent += gained
        longer = Frame(
            tuple(made.get(one.id, one) for one in self.before),
            tuple(made.get(one.id, one) for one in self.after),
            self.rest,
        )
        return longer, spent


def frame_of(request: ComposeRequest, school: School, doses: dict[str, DoseDefault]) -> Frame:
    """The frame for the minutes there are; in a short session arriving and closing are short too."""
    table = weights()
    slot = request.slot_s
    share = table.frame_share * slot
    number = len(request.complaints)
    breaths = request.breaths_per_minute

    def breathing(name: str) -> Dose:
        dose = paced(doses[name].dose, breaths)
        return stretched(dose, min(duration_s(dose), share)) if duration_s(dose) > share else dose

    before: list[FrameStop] = []
    after: list[FrameStop] = []
    if not request.begun:
        if school.frame_phase("rate") is not None:
            talk = min(table.talk_share * slot, table.talk_most_s) if request.setting == "practice" else 0
            seconds = round(min(talk + table.rating_s * number, 600))
            before.append(FrameStop("first_rating", "rate", Hold(seconds=seconds), "Rate how it is now, 0 to 10."))
        before.append(
            FrameStop("arrive", "breathe", breathing("opening"), "Settle in and notice the breath before pressing.")
        )
    after.append(FrameStop("close", "close", breathing(school.closing.dose), school.closing.words))
    if school.frame_phase("rate") is not None:
        seconds = max(round(table.rating_s * number), 5)
        after.append(
            FrameStop("last_rating", "rate", Hold(seconds=seconds), ("Rate the same complaints and activities."))
        )
    rest = FrameStop("rest", "breathe", paced(doses["rest"].dose, breaths), "A rest to let the effect settle.")
    return Frame(tuple(before), tuple(after), rest)


def look_share(request: ComposeRequest, school: School, *, wanted: bool) -> float:
    """What share of the pressing time is kept for second looks: the school's, in sessions long enough for one."""
    long = request.slot_s > weights().second_look_from * 60
    return school.second_look_share if wanted and long and school.frame_phase("second_look") is not None else 0.0


def second_look(seconds: float, school: School) -> FrameStop | None:
    """The second look of so many seconds; none where that is hardly one."""
    if seconds < weights().second_look_least_s:
        return None
    return FrameStop(
        "second_look",
        "second_look",
        Until(sign="eases", cap_s=int(min(seconds, 600))),
        f"Reserved for rechecking the sorest points. {school.sore_spot.words}",
    )
