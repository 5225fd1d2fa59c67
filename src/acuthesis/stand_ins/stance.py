"""Writes where each place comes to lie on the average figure, lying and sitting: core/compose/data/stance.json.

Run it as `python -m acuthesis.stand_ins.stance` when the atlas or the figure changes; a test says when that is due.
"""

import json

import numpy as np

from acuthesis.core.atlas.locating.placed import place_all
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.body.pose import posed
from acuthesis.core.compose.score.stance import STANCE, StanceRow
from acuthesis.settings import settings


def rows(body: FittedBody) -> dict[str, StanceRow]:
    """For each point and area, of its left side where it has two: cm, rounded."""
    placed = [one for one in place_all(body) if one.side != "right" or one.entry.sides == ("right",)]
    at = np.array([one.position for one in placed])
    lying, side, seated = (posed(body.figure, pose).places(at) for pose in ("supine", "side", "seated"))
    return {
        one.entry.id: StanceRow(
            across=round(lying[n, 0]),
            along=round(-lying[n, 2]),
            side_along=round(-side[n, 0]),
            side_front=round(side[n, 2]),
            seated_across=round(seated[n, 0]),
            seated_front=round(seated[n, 2]),
            seated_up=round(seated[n, 1]),
        )
        for n, one in enumerate(placed)
    }


def main() -> None:
    """Write the table, a line for each place."""
    found = rows(fit(load_asset(settings().body_asset), BodyFacts()))
    lines = [f"{json.dumps(id)}: {json.dumps(list(row))}" for id, row in sorted(found.items())]
    STANCE.write_text("{\n" + ",\n".join(lines) + "\n}\n")


if __name__ == "__main__":
    main()
