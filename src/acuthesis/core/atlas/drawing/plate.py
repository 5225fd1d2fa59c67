"""A plate: the flat drawing of one point or area on one person, with landmarks, the segment's cun, and the fingers."""

from dataclasses import dataclass
from html import escape
from string import ascii_lowercase

import numpy as np

from acuthesis.core.atlas.drawing.naming import spread
from acuthesis.core.atlas.locating.locate import Located, SegmentUsed, Triple
from acuthesis.core.body import catalogue
from acuthesis.core.body.cloth import worn
from acuthesis.core.body.drawing import INK, View, body_paths, document
from acuthesis.core.body.figure import Side, Vector, unit
from acuthesis.core.body.fit import FittedBody

# Width of the picture, where the looking starts and where it ends behind the target, cm: so that no other part of the
# body comes between or behind.
FRAMES: dict[str, tuple[float, float, float]] = {
    "head": (24, 30, 16),
    "trunk": (50, 40, 30),
    "upper_arm": (36, 14, 14),
    "forearm": (34, 14, 14),
    "hand": (24, 12, 9),
    "thigh": (44, 20, 18),
    "lower_leg": (48, 12, 16),
    "foot": (26, 14, 12),
    "ear": (7.5, 6, 5),
}

ROUND_PARTS = ("foot", "hand", "head", "ear")  # looked at straight, from above or below too
AT_HOME_SHARE = 0.75  # of the frame of its part: what a small picture still shows
LANDMARK_SHARE = 0.8  # of the frame of its part: a landmark is looked at a little nearer than a point
STRAIGHT_IN = 0.25  # pressure that goes so straight into the picture shows as no arrow
LETTER_WIDTH = 0.55  # of the size of the type, on average
ON_PAPER = 1 / 19  # of the width: type that is read at the size of a third of a page, about 8 points


@dataclass(frozen=True)
class LetteredPlate:
    """A drawing (SVG) whose landmarks carry letters, and the names of these landmarks in the order of the letters."""

    svg: str
    landmarks: tuple[str, ...]


def frame_name(located: Located, part: str) -> str:
    """Name of the frame that suits a target: the ear is looked at from nearer than the head."""
    return "ear" if located.id.startswith("ear_") else part


def view_of(located: Located, part: str) -> View:
    """Straight at the skin of the target, the segment's middle drawn in where it is long."""
    width, stand_off, depth = FRAMES[frame_name(located, part)]
    centre = np.array(located.position_cm)
    if located.segment is not None and located.segment.length_cm > width * 0.45:
        middle = np.array(located.segment.path_cm).mean(axis=0)
        centre = centre + 0.45 * (middle - centre)
        width = max(width, located.segment.length_cm * 1.25)
    return View(centre, look_at(np.array(located.normal), part), width, stand_off, depth)


def look_at(normal: Vector, part: str) -> Vector:
    """The direction (3,) in which skin that faces along `normal` (3,) is looked at.

    Limbs and trunk are looked at level: a tilted view would shorten lengths along them.
    """
    level = normal if part in ROUND_PARTS else normal * [1, 0, 1]
    return -unit(level) if np.linalg.norm(level) > 0.2 else -normal


def landmark_plate(name: str, side: Side, body: FittedBody) -> str:
    """The SVG of one landmark on one person. Raises: UnknownId if there is no such landmark."""
    place = body.places.landmark(name, side)
    mark = catalogue.landmarks()[name]
    width, stand_off, depth = FRAMES[mark.part]
    look = look_at(body.figure.normals_at(place[None])[0], mark.part)
    view = View(place, look, width * LANDMARK_SHARE, stand_off, depth)
    middle, arm = view.width_cm / 2, view.width_cm / 26
    cross = (
        f'<circle cx="{middle:.2f}" cy="{middle:.2f}" r="{arm:.2f}" fill="none" stroke="{INK}" '
        f'stroke-width="{arm / 4:.3f}"/><circle cx="{middle:.2f}" cy="{middle:.2f}" r="{arm / 3:.2f}" fill="{INK}"/>'
    )
    return document(body_paths(body.figure, view), cross, view, f"{mark.name}, {side}")


def plate_at_home(located: Located, part: str, body: FittedBody) -> str:
    """The same place as the person is shown it, who measures nothing: nearer, draped, without names, a large mark.

    Parameters and result as of `plate`.
    """
    seen = view_of(located, part)
    width = FRAMES[frame_name(located, part)][0] * AT_HOME_SHARE
    view = View(np.array(located.position_cm), seen.look, width, seen.stand_off_cm, seen.depth_cm)
    x, y = _flat(view, located.position_cm)
    dot = width / 32
    mark = (
        f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{dot * 2.2:.2f}" fill="none" stroke="{INK}" '
        f'stroke-width="{dot / 3:.3f}"/><circle cx="{x:.2f}" cy="{y:.2f}" r="{dot:.2f}" fill="{INK}"/>'
    )
    shown = _outline(located, view) if located.outline_cm else mark
    title = f"{located.name}, {located.side}"
    return document(body_paths(body.figure, view, draped=worn(body.facts)), shown + _arrow(located, view), view, title)


def plate(located: Located, part: str, body: FittedBody) -> str:
    """A located place drawn flat on this person's skin: outline, landmarks that are felt for, and the place.

    Parameters: located, in the reference pose; part, the body part to look at; body, the fitted body, cm.
    Returns: a whole SVG document.
    """
    view = view_of(located, part)
    marks = _outline(located, view) + _segment(located.segment, view) + _landmarks(located, view)
    marks += _fingers(located, view) + _target(located, view)
    title = f"{located.id}, {located.name}, {located.side}"
    return document(body_paths(body.figure, view), marks, view, title)


def plate_on_paper(located: Located, part: str, body: FittedBody) -> LetteredPlate:
    """The same place as it is printed small: letters at the landmarks, whose names go beside the drawing.

    Parameters as of `plate`. A name in the drawing would have to be made too small to be read.
    """
    view = view_of(located, part)
    names, letters = _letters(located, view)
    marks = _outline(located, view) + _segment(located.segment, view) + letters
    marks += _target(located, view, view.width_cm * ON_PAPER)
    title = f"{located.id}, {located.name}, {located.side}"
    return LetteredPlate(document(body_paths(body.figure, view), marks, view, title), names)


def _flat(view: View, place: Triple | Vector) -> tuple[float, float]:
    x, y = view.flat(np.array([place]))[0]
    return float(x), float(y)


def text(x: float, y: float, text: str, size: float, anchor: str = "start") -> str:
    """SVG of letters on a white ground, readable on the drawing. `x`, `y`, `size` in cm of the drawing; `anchor` as in
    SVG (`start`, `middle` or `end`); the text is escaped.
    """
    width = LETTER_WIDTH * size * len(text)
    left = {"start": x, "middle": x - width / 2, "end": x - width}[anchor]
    ground = (
        f'<rect x="{left - size / 6:.2f}" y="{y - size * 0.82:.2f}" width="{width + size / 3:.2f}" '
        f'height="{size * 1.08:.2f}" rx="{size / 5:.2f}" fill="#ffffff" fill-opacity="0.72"/>'
    )
    place = f'x="{x:.2f}" y="{y:.2f}" font-size="{size:.2f}" text-anchor="{anchor}"'
    face = "font-family=\"'Atkinson Hyperlegible Next', sans-serif\""
    return f'{ground}<text {place} {face} fill="{INK}">{escape(text)}</text>'


def _outline(located: Located, view: View) -> str:
    if not located.outline_cm:
        return ""
    points = " ".join(f"{x:.2f},{y:.2f}" for x, y in view.flat(np.array(located.outline_cm)))
    line = view.width_cm / 160
    return f'<polygon points="{points}" fill="{INK}" fill-opacity="0.14" stroke="{INK}" stroke-width="{line:.3f}"/>'


def _segment(segment: SegmentUsed | None, view: View) -> str:
    """The measured stretch with a tick at every cun, the ends longer."""
    if segment is None:
        return ""
    path = view.flat(np.array(segment.path_cm))
    line = view.width_cm / 300
    drawn = "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in path)
    steps = np.linalg.norm(np.diff(np.array(segment.path_cm), axis=0), axis=1)
    gone = np.concatenate([[0.0], steps.cumsum()])
    ticks = []
    for count in range(int(segment.cun) + 1):
        at = min(count * segment.cun_cm, gone[-1])
        x, y = (float(np.interp(at, gone, path[:, axis])) for axis in (0, 1))
        ahead = [float(np.interp(min(at + 0.1, gone[-1]), gone, path[:, axis])) for axis in (0, 1)]
        behind = [float(np.interp(max(at - 0.1, 0), gone, path[:, axis])) for axis in (0, 1)]
        along = unit(np.array(ahead) - np.array(behind) + 1e-9)
        long = view.width_cm / (55 if count in (0, int(segment.cun)) else 110)
        ticks.append(
            f"M{x - along[1] * long:.2f} {y + along[0] * long:.2f}L{x + along[1] * long:.2f} {y - along[0] * long:.2f}"
        )
    return (
        f'<path d="{drawn}" fill="none" stroke="{INK}" stroke-width="{line:.3f}" '
        f'stroke-dasharray="{line * 5:.2f} {line * 4:.2f}"/>'
        f'<path d="{"".join(ticks)}" fill="none" stroke="{INK}" stroke-width="{line:.3f}"/>'
    )


def _landmarks(located: Located, view: View) -> str:
    """A cross at each landmark, its name beside it on the side away from the target."""
    width = view.width_cm
    size, arm = width / 36, width / 90
    target, _ = _flat(view, located.position_cm)
    inside = []
    for id, place in located.landmarks.items():
        x, y = _flat(view, place)
        if 0 < x < width and 0 < y < width:
            inside.append((x, y, located.landmark_names[id]))
    marks = []
    for rightward in (True, False):
        column = sorted((row for row in inside if (row[0] >= target) == rightward), key=lambda row: row[1])
        if not column:
            continue
        heights = spread(np.array([y for _, y, _ in column]), size * 1.2, size * 1.2, width - size)
        for (x, y, name), height in zip(column, heights, strict=True):
            marks.append(
                f'<path d="M{x - arm:.2f} {y:.2f}H{x + arm:.2f}M{x:.2f} {y - arm:.2f}V{y + arm:.2f}" stroke="{INK}" '
                f'stroke-width="{width / 250:.3f}"/>'
            )
            room = (width - x if rightward else x) - 2 * arm
            fitting = min(size, room / (LETTER_WIDTH * len(name)))
            label_x = x + 1.6 * arm if rightward else x - 1.6 * arm
            marks.append(text(label_x, float(height) + fitting / 3, name, fitting, "start" if rightward else "end"))
    return "".join(marks)


def _letters(located: Located, view: View) -> tuple[tuple[str, ...], str]:
    """Names of the landmarks that are in the picture, from the top, and a cross with its letter at each."""
    width = view.width_cm
    size, arm = width * ON_PAPER, width / 70
    target_x, target_y = _flat(view, located.position_cm)
    seen = [(*_flat(view, place), located.landmark_names[id]) for id, place in located.landmarks.items()]
    inside = sorted(
        ((x, y, name) for x, y, name in seen if arm < x < width - arm and arm < y < width - arm), key=lambda row: row[1]
    )
    marks = []
    taken = [(target_x, target_y)]
    for letter, (x, y, _) in zip(ascii_lowercase, inside, strict=False):
        # Beside the cross, where it is farthest from the point and from the letters before it.
        around = [(x + dx * size * 0.75, y + dy * size * 0.75) for dx, dy in ((-1, 0), (1, 0), (0, -1), (0, 1))]
        at_x, at_y = max(around, key=lambda at: min(float(np.hypot(at[0] - a, at[1] - b)) for a, b in taken))
        taken += [(at_x, at_y), (x, y)]
        marks.append(
            f'<path d="M{x - arm:.2f} {y:.2f}H{x + arm:.2f}M{x:.2f} {y - arm:.2f}V{y + arm:.2f}" stroke="{INK}" '
            f'stroke-width="{width / 160:.3f}"/>' + text(at_x, at_y + size / 3, letter, size, "middle")
        )
    return tuple(name for _, _, name in inside[: len(ascii_lowercase)]), "".join(marks)


def _fingers(located: Located, view: View) -> str:
    """Own and practitioner's finger widths as bars to scale, in the lower corner."""
    if not located.fingers:
        return ""
    size = view.width_cm / 40
    bars = []
    y = view.width_cm - size * 1.2
    for check in reversed(located.fingers):
        rows = [("own", check.own_cm), ("wanted", check.wanted_cm)]
        if check.practitioner_cm is not None:
            rows.append(("yours", check.practitioner_cm))
        for label, length in rows:
            bars.append(
                f'<path d="M{size:.2f} {y - size / 3:.2f}h{length:.2f}" stroke="{INK}" stroke-width="{size / 3:.2f}" '
                f"{'' if label != 'wanted' else f'stroke-dasharray={chr(34)}{size / 3:.2f} {size / 5:.2f}{chr(34)}'}/>"
            )
            bars.append(text(size * 1.4 + length, y, f"{length:.1f} cm {label}", size))
            y -= size * 1.25
        bars.append(text(size, y + size * 0.2, check.span.replace("_", " "), size))
        y -= size * 1.3
    return "".join(bars)


def _target(located: Located, view: View, letters_cm: float | None = None) -> str:
    """The place with its ring, its arrow and its code; `letters_cm`, the size of the type where it is given."""
    x, y = _flat(view, located.position_cm)
    arrow = _arrow(located, view)
    dot = view.width_cm / 75
    ring = max(located.uncertainty_cm, dot * 1.8)
    size = letters_cm or view.width_cm / 24
    return (
        (
            ""
            if located.outline_cm
            else f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{ring:.2f}" fill="none" stroke="{INK}" '
            f'stroke-width="{view.width_cm / 320:.3f}" stroke-dasharray="{ring / 5:.2f} {ring / 8:.2f}"/>'
        )
        + arrow
        + f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{dot:.2f}" fill="{INK}"/>'
        + text(x + ring + size / 3, y - size / 2, located.id.split("_")[-1], size)
    )


def _arrow(located: Located, view: View) -> str:
    """The direction of pressure, as far as it shows in the picture: an arrow that ends at the point."""
    toward = np.array(located.press.vector)
    x, y = _flat(view, located.position_cm)
    across, up = float(toward @ view.right), float(toward @ view.up)
    length = float(np.hypot(across, up))
    if length < STRAIGHT_IN:
        return ""
    reach, head = view.width_cm / 9 * length, view.width_cm / 45
    dx, dy = across / length, -up / length
    tip = view.width_cm / 60
    from_x, from_y = x - dx * (reach + tip), y - dy * (reach + tip)
    to_x, to_y = x - dx * tip, y - dy * tip
    wings = "".join(
        f"M{to_x - head * (dx - side * dy * 0.5):.2f} {to_y - head * (dy + side * dx * 0.5):.2f}L{to_x:.2f} {to_y:.2f}"
        for side in (1, -1)
    )
    return (
        f'<path class="press" d="M{from_x:.2f} {from_y:.2f}L{to_x:.2f} {to_y:.2f}{wings}" fill="none" stroke="{INK}" '
        f'stroke-width="{view.width_cm / 200:.3f}" stroke-linecap="round"/>'
    )
