"""Points on four builds side by side, to be looked at by eye: `python -m benchmarks.contact_sheet FILE.svg`.

Each row is a build, each column a view: the back, the trunk, the arm, and the leg from the outer and the inner side.
What lies on the far side of the body is left out. docs/guide/atlas.md links the one that was looked at last.
"""

import sys
from pathlib import Path

import numpy as np

from acuthesis.core.atlas.entries.catalogue import points
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.drawing import INK, View, body_paths
from acuthesis.core.body.figure import unit
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.settings import settings

BUILDS = {
    "woman, 165 cm": BodyFacts(sex="female", age=38, height_cm=165, weight_kg=64),
    "man, 178 cm": BodyFacts(sex="male", age=38, height_cm=178, weight_kg=80),
    "woman of 83, 149 cm": BodyFacts(sex="female", age=83, height_cm=149, weight_kg=47),
    "man, 192 cm, heavy": BodyFacts(sex="male", age=40, height_cm=192, weight_kg=120),
}
# View: the landmarks in whose middle it looks, from where, how wide as a share of stature, and whose points it shows.
VIEWS = {
    "back": (("c7_spinous_process", "coccyx_tip"), (0, 0, -1), 0.46, ("BL", "GV", "SI")),
    "trunk": (("suprasternal_notch", "pubic_symphysis_upper_border"), (0, 0, 1), 0.44, ("CV", "KI", "ST", "SP", "LU")),
    "arm": (("acromion", "wrist_crease_dorsal"), (1, 0, 0.7), 0.42, ("LI", "TE", "LU", "PC")),
    "leg, outer side": (("patella_apex",), (1, 0, 0.25), 0.66, ("GB", "ST", "BL")),
    "leg, inner side": (("patella_apex",), (-1, 0, 0.1), 0.66, ("SP", "KI", "LR")),
}
NAMED = {
    "GV14", "GV4", "GV3", "BL13", "BL23", "BL25", "BL32", "BL40", "BL57", "BL60", "CV17",
    "CV12", "CV4", "LU1", "ST25", "ST34", "ST36", "LI14", "LI15", "LI11", "LI4", "TE5",
    "TE13", "GB31", "GB34", "GB39", "SP6", "SP9", "SP10", "KI3", "LR8",
}  # fmt: skip
NEAR_SIDE = 0.15  # how squarely the skin has to face the eye, for its points to be shown
CELL = 100.0


def cell(body: FittedBody, name: str) -> str:
    """One view of one build as SVG, `CELL` wide."""
    marks, toward, share, channels = VIEWS[name]
    centre = np.mean([body.places.landmark(mark, "left") for mark in marks], axis=0)
    width, out = share * body.figure.height_cm, unit(np.array(toward, dtype=float))
    leg = name.startswith("leg")  # the other one lies behind it
    view = View(centre, -out, width, stand_off_cm=12.0 if leg else 60.0, depth_cm=12.0 if leg else 60.0)
    drawn = [body_paths(body.figure, view)]
    for point in points().values():
        place = body.places.at(point.methods[0].place, "left")
        (x, y), facing = view.flat(place[None])[0], body.figure.facing(place) @ out
        if point.channel in channels and facing > NEAR_SIDE and 0 < x < width and 0 < y < width:
            drawn.append(f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{width / 160:.2f}" fill="{INK}"/>')
            if point.id in NAMED:
                drawn.append(
                    f'<text x="{x + width / 90:.2f}" y="{y:.2f}" font-size="{width / 36:.2f}">{point.id}</text>'
                )
    return f'<g transform="scale({CELL / width:.4f})">{"".join(drawn)}</g>'


def main(path: str) -> None:
    """Write the sheet."""
    asset = load_asset(settings().body_asset)
    rows = []
    for row, (build, facts) in enumerate(BUILDS.items()):
        body = fit(asset, facts)
        for column, name in enumerate(VIEWS):
            at = f"translate({column * CELL:g} {row * (CELL + 5) + 5:g})"
            said = f'<text x="1" y="-1" font-size="3.5">{build}: {name}</text>'
            rows.append(f'<svg overflow="hidden" x="{column * CELL:g}" y="{row * (CELL + 5) + 5:g}" width="{CELL:g}" '
                        f'height="{CELL:g}">{cell(body, name)}</svg><g transform="{at}">{said}</g>')  # fmt: skip
    width, height = CELL * len(VIEWS), (CELL + 5) * len(BUILDS)
    Path(path).write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" font-family="sans-serif" '
        f'role="img" aria-label="Points on four builds"><rect width="100%" height="100%" fill="#ffffff"/>'
        f"{''.join(rows)}</svg>\n"
    )


if __name__ == "__main__":
    main(sys.argv[1])
