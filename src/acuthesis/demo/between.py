"""Demo entries between visits: how people felt, episodes, medicines, sleep, pressing at home, events."""

import random
import uuid
from datetime import date, datetime, timedelta
from math import exp

from acuthesis.core.compose.home.plan import home_plan
from acuthesis.core.follow.diary import Asks
from acuthesis.core.safety.screening import Screening
from acuthesis.demo.world import DemoComplaint, Player
from acuthesis.stand_ins.hands import event_id
from acuthesis.store.model import DiaryRow, EpisodeRow, HomePlanRow, LogRow

TRIGGERS = ("strobe scene", "strobe scene", "strobe scene", "double day", "short night")
HOURS_A_DAY = {1: ("21:00",), 2: ("08:00", "20:00")}
HELPED = ("dark room", "dark room", "sleep", "")


class FeltOverTime:
    """How one complaint feels at any time: on the way from first to now, less what the sessions before still ease."""

    def __init__(self, player: Player, complaint: DemoComplaint, chance: random.Random) -> None:
        self.player, self.complaint, self.chance = player, complaint, chance

    def at(self, day: float) -> int:
        """A rating (0-10), so many days after the first session; at a session's very moment it has not eased yet."""
        felt = self.level(day) - self._eased(day) + self.chance.gauss(0, self.complaint.scatter)
        return min(max(round(felt), 0), 10)

    def level(self, day: float) -> float:
        """The level by itself: most of the way is made in the first weeks."""
        share = 1 - exp(-max(day, 0.0) / self.complaint.takes_days)
        return self.complaint.first + share * (self.complaint.now - self.complaint.first)

    def _eased(self, day: float) -> float:
        ages = [day - number * self.player.every_days for number in range(self.player.sessions)]
        return sum(
            (self.complaint.eases * 0.5 ** (age / self.complaint.half_life_days) for age in ages if age > 0), 0.0
        )

    def from_home(self) -> list[float]:
        """On which days they rate at home: before the first session, and between the sessions."""
        days = [-3.0 * (number + 1) for number in range(self.complaint.baseline)]
        step = self.player.every_days / (self.complaint.home + 1)
        for session in range(self.player.sessions):
            start = session * self.player.every_days
            days += [start + step * (number + self.chance.uniform(0.5, 1)) for number in range(self.complaint.home)]
        return sorted(days)


def episodes(
    player: Player, complaint_id: uuid.UUID, first: datetime, now: datetime, of: dict[str, uuid.UUID]
) -> list[EpisodeRow]:
    """The log of somebody's episodes, from before the first session until now, some of them with an end."""
    told = player.episodes
    if told is None:
        return []
    chance = random.Random(f"{player.given}, episodes")
    found: list[EpisodeRow] = []
    day = -float(told.log_days_before)
    last = (now - first).days
    while True:
        rate = told.per_week_before if day < 0 else told.per_week_since
        day += chance.expovariate(rate / 7)
        if day >= last:
            return found
        hour, minute = chance.choice((20, 21, 22, 23)), chance.choice((0, 15, 30))
        start = (first + timedelta(days=day)).replace(hour=hour, minute=minute)
        hours = chance.choice((2, 3, 4, 6)) if day < 0 else chance.choice((1, 2, 3, 3))
        found.append(
            EpisodeRow(
                id=event_id(chance),
                complaint_id=complaint_id,
                version=1,
                started_at=start,
                ended_at=start + timedelta(hours=hours),
                strength=chance.choice((5, 6, 7, 8)) if day < 0 else chance.choice((4, 5, 6, 6)),
                trigger=chance.choice(TRIGGERS),
                helped=chance.choice(HELPED),
                said_by="from_home",
                recorded_at=start + timedelta(hours=hours),
                **of,
            )
        )


def log(
    player: Player, complaint_ids: list[uuid.UUID], first: datetime, today: date, of: dict[str, uuid.UUID]
) -> list[LogRow]:
    """Entries of the log: what happened, medicines by the week, nights, and what was pressed at home."""
    chance = random.Random(f"{player.given}, log")
    found: list[LogRow] = []

    def entry(kind: str, days: int, until_days: int | None = None, **more: object) -> None:
        on = (first + timedelta(days=days)).date()
        until = None if until_days is None else min((first + timedelta(days=until_days)).date(), today)
        written = first + timedelta(days=days, hours=12)
        if on <= today:
            more = {"said_by": "from_home", **more}
            found.append(
                LogRow(id=event_id(chance), kind=kind, on_day=on, until=until, recorded_at=written, **more, **of)
            )

    for happened in player.events:
        entry("event", happened.days, words=happened.words, other_care=happened.other_care, said_by="person")
    days = (today - first.date()).days
    if player.medicine:
        before = player.episodes.log_days_before if player.episodes else 0
        for week in range(-(before // 7), days // 7):
            taken = chance.choice((3, 4, 4, 5)) if week < 0 else max(4 - week, chance.choice((1, 1, 2)))
            entry("medicine", week * 7, until_days=week * 7 + 6, words=player.medicine, amount=float(taken))
    if player.home_minutes:
        for day in range(days):
            if chance.random() < min(0.45 + day / 60, 0.9):
                entry(
                    "practice",
                    day,
                    complaint_id=complaint_ids[0],
                    amount=player.home_minutes,
                    pressed=player.home_places,
                )
    if player.nights:
        for day in range(-5, days):
            if chance.random() < 0.75:
                share = min(max(day, 0) / 28, 1.0)
                hours = player.nights[0] + share * (player.nights[1] - player.nights[0]) + chance.gauss(0, 0.5)
                entry("sleep", day, complaint_id=complaint_ids[0], amount=round(min(max(hours, 2), 10) * 2) / 2)
    return found


def taken_home(
    player: Player,
    complaint_ids: list[uuid.UUID],
    kinds: list[str],
    screening: Screening,
    by: uuid.UUID,
    first: datetime,
    now: datetime,
    of: dict[str, uuid.UUID],
) -> list[HomePlanRow | DiaryRow]:
    """The plan for home and the diary, where they have one. Nobody holds the diary's key: it is on no device."""
    chance = random.Random(f"{player.given}, home")
    given: list[HomePlanRow | DiaryRow] = []
    if player.home is not None:
        plan = home_plan(kinds, screening, player.home).model_copy(update={"others": ()})
        given.append(
            HomePlanRow(
                id=event_id(chance),
                plan=plan.model_dump(mode="json"),
                hours=list(HOURS_A_DAY[plan.times_a_day]),
                first_day=first.date(),
                until=now.date() + timedelta(days=14),
                made_by=by,
                made_at=first,
                **of,
            )
        )
    if player.diary:
        asks = Asks(
            complaints=tuple(complaint_ids),
            acts=True,
            episodes=tuple(complaint_ids[:1]) if player.episodes else (),
            sleep=player.nights is not None,
            medicine=bool(player.medicine),
            hours=("20:00",),
        )
        given.append(
            DiaryRow(
                id=event_id(chance),
                code_hash=chance.randbytes(32),
                code_until=first + timedelta(days=7),
                key_hash=chance.randbytes(32),
                asks=asks.model_dump(mode="json"),
                until=now.date() + timedelta(days=28),
                made_by=by,
                made_at=first,
                opened_at=first + timedelta(minutes=5),
                heard_at=now - timedelta(hours=14),
                **of,
            )
        )
    return given
