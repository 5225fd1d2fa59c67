"""The score as SVG for paper: time to the right, a lane a side, a block a stop, its height the pressure."""

from collections.abc import Mapping
from html import escape

from acuthesis.core.compose.knowledge.dose import Breaths, Circles, Dose, Glide, Pulse, Pumps, Rubs, Sets, Until, Walk
from acuthesis.core.compose.score.score import PRESSED, Score, Stop
from acuthesis.core.treat.state import StopRecord

LANES = ("right", "midline", "left")
WIDTH, LANE_HEIGHT, LEFT, TOP = 1000.0, 92.0, 78.0, 26.0
LEVELS = 5
INK, FILL = "#1c1d1f", "#e2e3e0"


def score_svg(score: Score, records: Mapping[str, StopRecord] | None = None) -> str:
    """Draw a score; with the records of a treatment, each block carries what was felt."""
    scale = (WIDTH - LEFT - 8) / max(score.total_s, 60)
    height = TOP + LANE_HEIGHT * len(LANES) + 24
    parts = [_ground(score, scale, height)]
    turned = None
    for stop in score.stops:
        if stop.muted:
            continue
        if turned is not None and stop.position != turned:
            x = LEFT + stop.start_s * scale - 3
            parts.append(f'<path d="M{x:.1f} {TOP}V{height - 24}" stroke="{INK}" stroke-width="2.5"/>')
            parts.append(_label(x + 4, TOP - 6, stop.position.replace("_", " "), 11))
        turned = stop.position
        parts += [_block(stop, lane, start, scale, records) for lane, start in _lanes(stop)]
    body = "".join(parts)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {height:g}" role="img" '
        f'aria-label="score">{body}</svg>'
    )


def _lanes(stop: Stop) -> list[tuple[str, float]]:
    """Lanes a stop sounds in, with the second it starts there: both at once, or one after the other."""
    if stop.side == "both" and stop.dose.together:
        return [("right", stop.start_s), ("left", stop.start_s)]
    if stop.side == "both":
        first, then = ("left", "right") if stop.first == "left" else ("right", "left")
        return [(first, stop.start_s), (then, stop.start_s + stop.duration_s / 2)]
    return [(stop.side, stop.start_s)]


def _ground(score: Score, scale: float, height: float) -> str:
    lines = []
    for row, lane in enumerate(LANES):
        y = TOP + (row + 1) * LANE_HEIGHT
        lines.append(f'<path d="M{LEFT} {y}H{WIDTH - 8}" stroke="{INK}" stroke-width="0.7"/>')
        lines.append(_label(4, y - LANE_HEIGHT / 2, lane, 13))
    for minute in range(0, int(score.total_s // 60) + 1, 5 if score.total_s > 900 else 1):
        lines.append(_label(LEFT + minute * 60 * scale, height - 8, f"{minute}", 11))
    return "".join(lines)


def _label(x: float, y: float, text: str, size: float) -> str:
    return f'<text x="{x:.1f}" y="{y:.1f}" font-size="{size:g}" fill="{INK}">{escape(text)}</text>'


def _block(stop: Stop, lane: str, start: float, scale: float, records: Mapping[str, StopRecord] | None) -> str:
    seconds = stop.duration_s / (2 if stop.side == "both" and not stop.dose.together else 1)
    x, width = LEFT + start * scale, max(seconds * scale, 2.0)
    base = TOP + (LANES.index(lane) + 1) * LANE_HEIGHT
    height = (LANE_HEIGHT - 34) * stop.level / LEVELS + 4
    outline = _outline(stop.dose, width, height)
    # The many short passes of a general round have their names in the list below.
    label = "" if stop.round == "general" and stop.kind == "area" else _block_name(stop)
    text = (
        f'<text transform="translate({x + width / 2 + 4:.1f} {base - height - 4:.1f}) rotate(-58)" font-size="11" '
        f'fill="{INK}">{escape(label)}</text>'
    )
    record = (records or {}).get(stop.key)
    felt = ""
    if record and record.soreness:
        first, last = record.soreness[0].value, record.soreness[-1].value
        felt = _label(x + 1, base + 12, f"{first}→{last}" if len(record.soreness) > 1 else f"{first}", 10)
    return (
        f'<path transform="translate({x:.1f} {base:.1f})" d="{outline}" fill="{FILL}" stroke="{INK}" '
        f'stroke-width="1"/>{text}{felt}'
    )


def _outline(dose: Dose, width: float, height: float) -> str:
    """Shape of a block from its lower left corner: plain, teeth, scallops, a ramp, steps, a zigzag or waves on top."""
    if isinstance(dose, Pulse | Pumps | Sets):
        number, on = _teeth(dose)
        count = min(number, max(int(width / 4), 1))
        step = width / count
        top = "".join(
            f"L{i * step:.1f} {-height:.1f}L{(i + on) * step:.1f} {-height:.1f}L{(i + on) * step:.1f} {-height / 3:.1f}"
            f"L{(i + 1) * step:.1f} {-height / 3:.1f}"
            for i in range(count)
        )
    elif isinstance(dose, Circles):
        count = min(2 * dose.each_way, max(int(width / 5), 2))
        step = width / count
        top = f"V{-height * 0.8:.1f}" + f"q{step / 2:.2f} {-height * 0.4:.2f} {step:.2f} 0" * count
    elif isinstance(dose, Glide):
        top = f"V{-height * 0.3:.1f}L{width:.1f} {-height:.1f}"
    elif isinstance(dose, Walk):
        count = min(dose.passes, max(int(width / 4), 1))
        step = width / count
        top = (
            f"V{-height * 0.4:.1f}"
            + f"l{step * 0.5:.2f} {-height * 0.6:.2f}h{step * 0.5:.2f}v{height * 0.6:.2f}" * count
        )
    elif isinstance(dose, Rubs):
        count = min(dose.count, max(int(width / 4), 1))
        step = width / count
        top = f"V{-height * 0.6:.1f}" + f"l{step / 2:.2f} {-height * 0.4:.2f}l{step / 2:.2f} {height * 0.4:.2f}" * count
    elif isinstance(dose, Until):
        top = f"V{-height:.1f}H{width * 0.6:.1f}L{width:.1f} {-height * 0.35:.1f}"  # it may end before its cap
    elif isinstance(dose, Breaths):
        count = min(dose.count, max(int(width / 6), 1))
        step = width / count
        wave = f"c{step / 4:.2f} {-height * 0.5:.2f} {step / 4:.2f} {-height * 0.5:.2f} {step / 2:.2f} 0"
        wave += f"c{step / 4:.2f} {height * 0.3:.2f} {step / 4:.2f} {height * 0.3:.2f} {step / 2:.2f} 0"
        top = f"V{-height * 0.7:.1f}" + wave * count
    else:
        top = f"V{-height:.1f}H{width:.1f}"
    return f"M0 0{top}L{width:.1f} 0Z"


def _block_name(stop: Stop) -> str:
    """What stands above a block: the code of a point, a word for anything else."""
    if stop.kind in PRESSED:
        return stop.id.removeprefix("ear_").removeprefix("foot_").replace("_", " ")
    return {"rate": "rate", "second_look": "recheck", "close": "close"}.get(stop.kind, stop.id.split("_")[0])


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
