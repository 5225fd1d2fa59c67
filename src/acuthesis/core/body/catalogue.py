"""Loads landmarks, segments and lines from their data files and checks that every id they mention exists."""

from functools import lru_cache
from pathlib import Path
from typing import TypeVar

import yaml
from pydantic import BaseModel, TypeAdapter

from acuthesis.core.body.construct import Between, Landmark, Line, Move, OnArc, OnLine, Place, Segment, Skin
from acuthesis.core.errors import UnknownId

DATA = Path(__file__).parent / "data"
T = TypeVar("T", bound=BaseModel)


def read_yaml(path: Path, kind: type[T]) -> list[T]:
    """A YAML list as models. Raises: pydantic.ValidationError naming the entry and the field."""
    return TypeAdapter(list[kind]).validate_python(yaml.safe_load(path.read_text()))  # type: ignore[valid-type]


def _by_id(rows: list[T]) -> dict[str, T]:
    table: dict[str, T] = {}
    for row in rows:
        key = str(row.model_dump(include={"id"})["id"])
        if key in table:
            raise UnknownId(f"'{key}' is defined twice", where=key)
        table[key] = row
    return table


@lru_cache
def landmarks() -> dict[str, Landmark]:
    """Every landmark by id."""
    return _by_id(read_yaml(DATA / "landmarks.yaml", Landmark))


@lru_cache
def segments() -> dict[str, Segment]:
    """Every proportional segment by id."""
    return _by_id(read_yaml(DATA / "segments.yaml", Segment))


@lru_cache
def lines() -> dict[str, Line]:
    """Every named line by id."""
    return _by_id(read_yaml(DATA / "lines.yaml", Line))


def bare(reference: str) -> str:
    """A reference without the side in front of it."""
    head, _, rest = reference.partition(".")
    return rest if head in ("left", "right", "other") else reference


def mentioned(place: Place) -> list[str]:
    """Landmark ids a place rests on directly, first mention first (joints and vertices are not landmarks)."""
    match place:
        case str():
            name = bare(place)
            return [] if name.startswith("joint.") else [name]
        case Between():
            return _unique([*mentioned(place.between[0]), *mentioned(place.between[1])])
        case Move():
            return mentioned(place.move)
        case Skin():
            return _unique([*mentioned(place.skin), *(mentioned(place.through) if place.through else [])])
        case OnLine():
            line, segment = lines()[place.line], segments()[place.segment]
            ends = [place.start, bare(segment.start), bare(segment.end)]
            return _unique([*ends, *mentioned(line.start), *mentioned(line.end)])
        case OnArc():
            segment = segments()[place.arc]
            return [bare(segment.start), bare(segment.end)]
        case _:
            return []


def segment_of(place: Place) -> str | None:
    """Id of the segment whose cun a place counts in, if it counts at all."""
    match place:
        case OnLine():
            return place.segment
        case OnArc():
            return place.arc
        case Move():
            return place.cun or segment_of(place.move)
        case Skin():
            return segment_of(place.skin) or (segment_of(place.through) if place.through else None)
        case Between():
            return segment_of(place.between[0]) or segment_of(place.between[1])
        case _:
            return None


def _unique(names: list[str]) -> list[str]:
    return list(dict.fromkeys(names))
