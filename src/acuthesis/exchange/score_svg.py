"""The score as SVG for paper: time to the right, a lane a side, a block a stop, its height the pressure.

As on screen, and in strips one below the other, because a page is narrower than an hour is long. In millimetres
throughout, so that letters have the size on paper that they have here.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from html import escape
from typing import NamedTuple

from acuthesis.core.compose.knowledge.dose import Breaths, Circles, Dose, Glide, Pulse, Pumps, Rubs, Sets, Until, Walk
from acuthesis.core.compose.score.score import PRESSED, Score, Stop
from acuthesis.core.message import message
from acuthesis.core.treat.state import StopRecord
from acuthesis.core.words import POSITION_WORDS, short_id
from acuthesis.words.reader import Reader

LANES = ("right", "midline", "left")
WIDTH, LEFT, RIGHT = 182.0, 15.0, 2.0
STRIP_S = 20 * 60.0  # the longest that one strip shows, where nothing else is asked for
LEVELS, BLOCK, LEAST_BLOCK = 5, 7.0, 1.0
NAME, SMALL = 2.65, 2.3  # the size of letters: 7.5 and 6.5 points
LETTER_WIDTH, CODE_WIDTH = 0.52, 0.62  # of the size, on average; of a code in bold capitals
ROW, GAP = 3.0, 1.2  # from one row of names to the next; between two names, and between a name and its block
TOOTH = 1.0  # the narrowest tooth or wave of a block's shape
INK, FILL, FAINT = "#1c1d1f", "#e2e3e0", "#b9bcc0"


@dataclass(frozen=True)
class _Block:
    """What a stop fills in one lane, from a second of the score on."""

    stop: Stop
    lane: str
    start_s: float
    seconds: float


class _Strip(NamedTuple):
    start_s: float
    stops: tuple[Stop, ...]


class _Name(NamedTuple):
    block: _Block
    words: str
    x: float
    row: int


def score_svgs(
    score: Score,
    reader: Reader,
    records: Mapping[str, StopRecord] | None = None,
    *,
    strip_s: float = STRIP_S,
    techniques_named: bool = True,
) -> list[str]:
    """Draw a score for somebody who reads `reader`'s language; with the records of a treatment, each block carries what
    was felt.

    Parameters: strip_s, the longest that one strip shows; techniques_named, whether only what is pressed has its name.
    Returns: an SVG document a strip, `WIDTH` millimetres wide, all to one scale.
    """
    strips = _strips([stop for stop in score.stops if not stop.muted], score.total_s, strip_s)
    longest = max((_end_s(strip) - strip.start_s for strip in strips), default=60.0)
    scale = (WIDTH - LEFT - RIGHT) / max(longest, 60.0)
    title = escape(reader.say(message("paper-score-drawn")))
    drawn, position = [], None
    for strip in strips:
        body, height = _strip(strip, scale, position, reader, records or {}, techniques_named)
        drawn.append(
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {height:.2f}" width="{WIDTH:g}mm" '
            f'height="{height:.2f}mm" role="img" aria-label="{title}" '
            f'font-family="Atkinson Hyperlegible Next, sans-serif">{body}</svg>'
        )
        position = strip.stops[-1].position
    return drawn


def _strips(stops: Sequence[Stop], total_s: float, strip_s: float) -> list[_Strip]:
    """The stops shared out over strips of about equal length; a strip begins where a stop does."""
    number = max(math.ceil(total_s / strip_s), 1)
    edges = {0}
    for strip in range(1, number):
        wanted = strip * total_s / number
        edges.add(min(range(len(stops)), key=lambda place: abs(stops[place].start_s - wanted)))
    begins = sorted(edges)
    ends = [*begins[1:], len(stops)]
    return [_Strip(stops[a].start_s, tuple(stops[a:b])) for a, b in zip(begins, ends, strict=True) if a < b]


def _end_s(strip: _Strip) -> float:
    return max(stop.start_s + stop.duration_s for stop in strip.stops)


def _strip(
    strip: _Strip,
    scale: float,
    before: str | None,
    reader: Reader,
    records: Mapping[str, StopRecord],
    techniques_named: bool,
) -> tuple[str, float]:
    """The SVG of a strip and its height. `before`: the position at the end of the strip before."""

    def x_of(at_s: float) -> float:
        return LEFT + (at_s - strip.start_s) * scale

    blocks = [block for stop in strip.stops for block in _blocks(stop)]
    lanes, y = [], ROW + GAP
    for lane in LANES:
        own = [block for block in blocks if block.lane == lane]
        names = _names([one for one in own if techniques_named or one.stop.kind in PRESSED], x_of)
        tallest = max((_height(block.stop) for block in own), default=LEAST_BLOCK)
        rows = max((name.row + 1 for name in names), default=0)
        base = y + rows * ROW + GAP + tallest
        lanes.append(f'<path d="M{LEFT} {base:.2f}H{WIDTH - RIGHT}" stroke="{INK}" stroke-width="0.2"/>')
        side = reader.say(message(f"side-{lane}"))
        lanes.append(_text(0, base, side, SMALL))
        above = base - tallest - GAP
        lanes += [_pointer(name, x_of(name.block.start_s), above, base) for name in names]
        lanes += [_named(name, above) for name in names]
        lanes += [_drawn(block, x_of(block.start_s), base, scale) for block in own]
        felt = [_felt(block, x_of(block.start_s), base, records) for block in own]
        lanes += felt
        y = base + (SMALL + 0.6 if any(felt) else 0.8)
    ground = _ground(strip, x_of, ROW, y + SMALL + 0.6)
    turns = _turns(strip, x_of, before, y)
    return f"{ground}{turns}{''.join(lanes)}", y + SMALL + 2.4


def _blocks(stop: Stop) -> list[_Block]:
    """The lanes a stop sounds in: both at once, or one after the other."""
    if stop.side != "both":
        return [_Block(stop, stop.side, stop.start_s, stop.duration_s)]
    if stop.dose.together:
        return [_Block(stop, lane, stop.start_s, stop.duration_s) for lane in ("right", "left")]
    first, then = ("left", "right") if stop.first == "left" else ("right", "left")
    half = stop.duration_s / 2
    return [_Block(stop, first, stop.start_s, half), _Block(stop, then, stop.start_s + half, half)]


def _height(stop: Stop) -> float:
    return LEAST_BLOCK + (BLOCK - LEAST_BLOCK) * stop.level / LEVELS


def _names(blocks: Sequence[_Block], x_of: Callable[[float], float]) -> list[_Name]:
    """Names above their blocks, each in the lowest row where it covers no other. The many short passes of a general
    round have theirs in the list below."""
    placed: list[_Name] = []
    ends: list[float] = []  # of each row so far
    for block in sorted(blocks, key=lambda one: one.start_s):
        if block.stop.round == "general" and block.stop.kind == "area":
            continue
        words = short_id(block.stop.id) if block.stop.kind in PRESSED else block.stop.name
        width = _width(words, NAME, bold=block.stop.kind in PRESSED)
        x = min(x_of(block.start_s), WIDTH - width)
        row = next((row for row, end in enumerate(ends) if end + GAP <= x), len(ends))
        ends[row:] = [x + width, *ends[row + 1 :]]
        placed.append(_Name(block, words, x, row))
    return placed


def _pointer(name: _Name, x: float, above: float, base: float) -> str:
    """The line from a name to its block. `above`: the foot of the lowest row of names; `base`: of the block."""
    foot = above - name.row * ROW + 0.4
    return f'<path d="M{x:.2f} {foot:.2f}V{base - _height(name.block.stop):.2f}" stroke="{INK}" stroke-width="0.15"/>'


def _named(name: _Name, above: float) -> str:
    """A name in its row, on a white ground that hides what runs behind it."""
    foot, bold = above - name.row * ROW, name.block.stop.kind in PRESSED
    width = _width(name.words, NAME, bold=bold) + 0.4
    ground = (
        f'<rect x="{name.x - 0.2:.2f}" y="{foot - NAME * 0.8:.2f}" width="{width:.2f}" '
        f'height="{NAME:.2f}" fill="#ffffff"/>'
    )
    return ground + _text(name.x, foot, name.words, NAME, bold=bold)


def _drawn(block: _Block, x: float, base: float, scale: float) -> str:
    outline = _outline(block.stop.dose, max(block.seconds * scale, 0.4), _height(block.stop))
    return (
        f'<path transform="translate({x:.2f} {base:.2f})" d="{outline}" fill="{FILL}" stroke="{INK}" '
        f'stroke-width="0.2"/>'
    )


def _felt(block: _Block, x: float, base: float, records: Mapping[str, StopRecord]) -> str:
    record = records.get(block.stop.key)
    if record is None or not record.soreness:
        return ""
    first, last = record.soreness[0].value, record.soreness[-1].value
    return _text(x, base + SMALL, f"{first}→{last}" if len(record.soreness) > 1 else f"{first}", SMALL)


def _ground(strip: _Strip, x_of: Callable[[float], float], top: float, foot: float) -> str:
    """A hairline a minute, every fifth with its number."""
    lines = []
    for minute in range(math.ceil(strip.start_s / 60), int(_end_s(strip) // 60) + 1):
        x, fifth = x_of(minute * 60), minute % 5 == 0
        lines.append(
            f'<path d="M{x:.2f} {top if fifth else foot - SMALL - 1.4:.2f}V{foot - SMALL - 0.4:.2f}" '
            f'stroke="{FAINT}" stroke-width="{0.2 if fifth else 0.12}"/>'
        )
        if fifth:
            lines.append(_text(x, foot, f"{minute}", SMALL, anchor="middle"))
    return "".join(lines)


def _turns(strip: _Strip, x_of: Callable[[float], float], before: str | None, foot: float) -> str:
    """How the person lies or sits, from the start of the strip and from each turn on."""
    drawn = []
    for stop in strip.stops:
        x = x_of(stop.start_s)
        if before is not None and stop.position != before:
            drawn.append(f'<path class="turn" d="M{x - 0.6:.2f} 0V{foot:.2f}" stroke="{INK}" stroke-width="0.6"/>')
        if stop.position != before or stop is strip.stops[0]:
            drawn.append(_text(x, SMALL, POSITION_WORDS[stop.position], SMALL))
        before = stop.position
    return "".join(drawn)


def _width(words: str, size: float, *, bold: bool) -> float:
    return (CODE_WIDTH if bold else LETTER_WIDTH) * size * len(words)


def _text(x: float, y: float, words: str, size: float, *, anchor: str = "start", bold: bool = False) -> str:
    weight = ' font-weight="700"' if bold else ""
    return (
        f'<text x="{x:.2f}" y="{y:.2f}" font-size="{size:g}" text-anchor="{anchor}"{weight} fill="{INK}">'
        f"{escape(words)}</text>"
    )


def _outline(dose: Dose, width: float, height: float) -> str:
    """Shape of a block from its lower left corner: plain, teeth, scallops, a ramp, steps, a zigzag or waves on top."""
    if isinstance(dose, Pulse | Pumps | Sets):
        number, on = _teeth(dose)
        count = min(number, max(int(width / TOOTH), 1))
        step = width / count
        top = "".join(
            f"L{i * step:.2f} {-height:.2f}L{(i + on) * step:.2f} {-height:.2f}L{(i + on) * step:.2f} {-height / 3:.2f}"
            f"L{(i + 1) * step:.2f} {-height / 3:.2f}"
            for i in range(count)
        )
    elif isinstance(dose, Circles):
        count = min(2 * dose.each_way, max(int(width / TOOTH), 2))
        step = width / count
        top = f"V{-height * 0.8:.2f}" + f"q{step / 2:.2f} {-height * 0.4:.2f} {step:.2f} 0" * count
    elif isinstance(dose, Glide):
        top = f"V{-height * 0.3:.2f}L{width:.2f} {-height:.2f}"
    elif isinstance(dose, Walk):
        count = min(dose.passes, max(int(width / TOOTH), 1))
        step = width / count
        top = (
            f"V{-height * 0.4:.2f}"
            + f"l{step * 0.5:.2f} {-height * 0.6:.2f}h{step * 0.5:.2f}v{height * 0.6:.2f}" * count
        )
    elif isinstance(dose, Rubs):
        count = min(dose.count, max(int(width / TOOTH), 1))
        step = width / count
        top = f"V{-height * 0.6:.2f}" + f"l{step / 2:.2f} {-height * 0.4:.2f}l{step / 2:.2f} {height * 0.4:.2f}" * count
    elif isinstance(dose, Until):
        top = f"V{-height:.2f}H{width * 0.6:.2f}L{width:.2f} {-height * 0.35:.2f}"  # it may end before its cap
    elif isinstance(dose, Breaths):
        count = min(dose.count, max(int(width / TOOTH), 1))
        step = width / count
        wave = f"c{step / 4:.2f} {-height * 0.5:.2f} {step / 4:.2f} {-height * 0.5:.2f} {step / 2:.2f} 0"
        wave += f"c{step / 4:.2f} {height * 0.3:.2f} {step / 4:.2f} {height * 0.3:.2f} {step / 2:.2f} 0"
        top = f"V{-height * 0.7:.2f}" + wave * count
    else:
        top = f"V{-height:.2f}H{width:.2f}"
    return f"M0 0{top}L{width:.2f} 0Z"


def _teeth(dose: Pulse | Pumps | Sets) -> tuple[int, float]:
    """How many teeth a block has, and the share of each that presses."""
    match dose:
        case Pulse():
            return dose.cycles, dose.on_s / (dose.on_s + dose.off_s)
        case Pumps():
            return dose.count, 0.5
        case Sets():
            work = dose.count * dose.seconds_each
            return dose.sets, work / (work + dose.release_s)
