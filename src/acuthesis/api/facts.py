"""Constants that the interface shares with the core, because it works offline too; written to facts.gen.ts.

`./acuthesis client` writes it as `web/src/api/facts.gen.ts`, beside the types of the API.
"""

from typing import Any, get_args

from acuthesis.core.atlas.entries.catalogue import areas
from acuthesis.core.atlas.locating.finding import Texture
from acuthesis.core.compose.knowledge.dose import SIGN_WORDS
from acuthesis.core.compose.score.course import RELEASE_S, calm_breath
from acuthesis.core.compose.score.score import MOVE_S, PRESSED
from acuthesis.core.safety.first_aid import usual_help
from acuthesis.core.treat.events import care, reactions
from acuthesis.core.treat.fold import MOST_PAST
from acuthesis.core.treat.second import CORE_WORTH, LOOK_SIDE_S
from acuthesis.core.treat.wrong import tree
from acuthesis.core.words import POSITION_WORDS, SURFACE_PREFIX


def shared_facts() -> dict[str, Any]:
    """Thresholds and words of treating, seconds between two places, which stops are pressed, words of positions."""
    known = care()
    return {
        "move_s": MOVE_S,
        "pressed": list(PRESSED),
        "positions": dict(POSITION_WORDS),
        "surface_prefix": SURFACE_PREFIX,
        "codes": {area.id: area.code for area in areas().values() if area.code not in ("", area.id.split("_", 1)[-1])},
        "too_sore": known.too_sore,
        "worse_by": known.worse_by,
        "sore_enough": known.sore_enough,
        "asleep_most": known.asleep_most,
        "keeps_coming": known.keeps_coming,
        "loop": known.loop.model_dump(),
        "ways": known.ways,
        "whys": known.whys,
        "look": {"side_s": LOOK_SIDE_S, "core_worth": CORE_WORTH},
        "most_past": MOST_PAST,
        "release_s": RELEASE_S,
        "breath": {"seconds": calm_breath().seconds, "in_share": calm_breath().in_share},
        "textures": list(get_args(Texture)),
        "sign_words": SIGN_WORDS,
        "wrong": tree().model_dump(),
        "usual_help": usual_help().model_dump(),
        "words": known.words.model_dump(),
        "reaction_order": list(reactions()),
        "reactions": {name: row.model_dump() for name, row in reactions().items()},
    }
