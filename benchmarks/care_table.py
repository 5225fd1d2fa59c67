"""Writes the table of docs/guide/care.md: for each standing rule whom it protects, what it does, and the cases of it.

Run it after a change to rules.yaml or care-cases.yaml: `python -m benchmarks.care_table`. A test holds the table to
them.
"""

import re
from typing import Any

from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.data_file import read
from acuthesis.core.safety.rule import Asked, Condition, Rule
from acuthesis.core.safety.screening import Screening, parse_screening, questions
from acuthesis.core.safety.standing import awake, rules
from acuthesis.settings import ROOT

GUIDE = ROOT / "docs" / "guide" / "care.md"
CASES = ROOT / "docs" / "guide" / "care-cases.yaml"
BEGIN, END = "<!-- rules -->", "<!-- end of rules -->"
MOST_CASES = 2
DOES = {"emergency": "emergency", "refer": "refers", "ask": "asks", "refuse": "leaves out", "note": "says"}
SOURCES = {"first_aid": "first aid", "tradition": "tradition", "manual": "manual therapy", "practice": "practice"}


def case_screening(case: dict[str, Any]) -> Screening:
    """The screening of a named case, with the complaints that it is composed for."""
    who = {key: value for key, value in case["who"].items() if key not in ("age", "sex", "has")}
    side = case.get("side", "untold")
    complaints = {**case["who"].get("has", {}), **dict.fromkeys(case["for"], side)}
    sex = case["who"].get("sex", "unspecified")
    return parse_screening(who, case["who"].get("age"), sex=sex, complaints=complaints)


def table() -> str:
    """The table in Markdown, one row a rule, in the order of rules.yaml."""
    cases = [(case["name"], case_screening(case)) for case in read(CASES)]
    rows = ["| rule | whom it protects | what it does | source | named cases |", "|---|---|---|---|---|"]
    for rule in rules():
        named = [name for name, screening in cases if rule.when is not None and awake(rule, screening)]
        shown = "; ".join(named[:MOST_CASES]) + (f"; and {len(named) - MOST_CASES}" if len(named) > MOST_CASES else "")
        told = "every one" if rule.when is None else shown or "none by name"
        rows.append(f"| `{rule.id}` | {whom(rule)} | {does(rule)} | {SOURCES[rule.source]} | {told} |")
    return "\n".join(rows)


def whom(rule: Rule) -> str:
    """Whom a rule speaks for, in words.

    >>> whom(next(rule for rule in rules() if rule.id == "age_under_two"))
    'under 2'
    """
    if rule.when is None:
        return "everybody"
    when: Condition = rule.when
    told = [" or ".join(_asked(one) for one in when.either) if when.either else _asked(when)]
    told += [f"with {_asked(one)}" for one in when.also]
    if when.also_either:
        told.append(f"with {' or '.join(_asked(one) for one in when.also_either)}")
    told += [f"not: {_asked(one)}" for one in when.unless]
    return ", ".join(one for one in told if one).replace("|", "/") or "everybody"


def _asked(asked: Asked) -> str:
    if asked.age_over is not None:
        return f"over {asked.age_over}"
    if asked.age_under is not None:
        return f"under {asked.age_under}"
    if asked.sex is not None:
        return {"male": "men", "female": "women"}[asked.sex]
    if asked.complaint:
        side = f" on {asked.complaint_side} sides" if asked.complaint_side == "both" else ""
        return " or ".join(complaint_kinds()[id].name.lower() for id in asked.complaint) + side
    if asked.question is None:
        return ""
    return _question(asked)


def _question(asked: Asked) -> str:
    assert asked.question is not None
    told = re.sub(r": (where|which \w+|week|weeks ago)$", "", questions()[asked.question].ask)
    told = told[:1].lower() + told[1:]
    if asked.reading is not None:
        return f"{told}, {asked.reading[0]}/{asked.reading[1]} or more"
    if asked.reading_under is not None:
        return f"{told}, {asked.reading_under[0]}/{asked.reading_under[1]} or less"
    if asked.at_least is not None:
        told += f", {asked.at_least} or more"
    if asked.at_most is not None:
        told += f", {asked.at_most} or less"
    if asked.same_limb_as is not None:
        told += f", on one limb with: {questions()[asked.same_limb_as].ask.partition(':')[0].lower()}"
    if asked.places:
        told += ", there"
    return told + (f" ({', '.join(asked.choice)})" if asked.choice else "")


def does(rule: Rule) -> str:
    """What a rule does, in its own short words."""
    kind = "limits" if rule.severity == "limit" else DOES[rule.severity]
    return f"{kind}: {rule.reason}".replace("|", "/")


def written(guide: str) -> str:
    """The guide with the table as it is now between its two marks."""
    before, _, rest = guide.partition(BEGIN)
    return f"{before}{BEGIN}\n{table()}\n{END}{rest.partition(END)[2]}"


if __name__ == "__main__":
    GUIDE.write_text(written(GUIDE.read_text()))
