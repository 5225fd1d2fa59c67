"""Loads landmarks, segments and lines from their data files and checks that every id they mention exists."""

from functools import lru_cache
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, TypeAdapter

from acuthesis.core.body.construct import (
    Around,
    Beside,
    Between,
    Drop,
    Landmark,
    Level,
    Line,
    Move,
    OnArc,
    OnLine,
    Place,
    Segment,
    Skin,
)
from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

DATA = Path(__file__).parent / "data"
T = TypeVar("T", bound=BaseModel)


def read_rows(path: Path) -> list[dict[str, Any]]:
    """The entries of a YAML list, or of every list in a folder, with the series among them written out.

    An entry with `each: {n: [1, 2], word: [first, second]}` stands for one entry per column: `{n}` and `{word}` in its
    texts are filled in, and a text that is nothing but `"{n}"` becomes the value itself.
    """
    files = sorted(path.glob("*.yaml")) if path.is_dir() else [path]
    rows: list[dict[str, Any]] = []
    for file in files:
        for row in read(file):
            rows += written_out(row)
    return rows


def written_out(row: dict[str, Any]) -> list[dict[str, Any]]:
    """The entries that a row stands for: itself, or one a column of its `each`."""
    row = dict(row)
    columns = row.pop("each", None)
    if columns is None:
        return [row]
    return [
        {key: _filled(value, dict(zip(columns, values, strict=True))) for key, value in row.items()}
        for values in zip(*columns.values(), strict=True)
    ]


def _filled(value: Any, values: dict[str, Any]) -> Any:
    match value:
        case str() if value.startswith("{") and value[1:-1] in values:
            return values[value[1:-1]]
        case str():
            return value.format(**values)
        case list():
            return [_filled(item, values) for item in value]
        case dict():
            return {key: _filled(item, values) for key, item in value.items()}
        case _:
            return value


def read_yaml(path: Path, kind: type[T]) -> list[T]:
    """A YAML list, or a folder of them, as models. Raises: pydantic.ValidationError naming the entry and the field."""
    return TypeAdapter(list[kind]).validate_python(read_rows(path))  # type: ignore[valid-type]


def _by_id(rows: list[T]) -> dict[str, T]:
    table: dict[str, T] = {}
    for row in rows:
        key = str(row.model_dump(include={"id"})["id"])
        if key in table:
            raise UnknownId(message("catalogue-defined-twice", key=key), where=key)
        table[key] = row
    return table


@lru_cache
def landmarks() -> dict[str, Landmark]:
    """Every landmark by id: what it is called, how a hand finds it, and how it is built on the figure.

    >>> landmarks()["patella_base"].name
    'upper edge of the kneecap'
    """
    return _by_id(read_yaml(DATA / "landmarks", Landmark))


@lru_cache
def segments() -> dict[str, Segment]:
    """Every proportional segment by id: two landmarks and the parts (cun) between them.

    >>> segments()["forearm"].cun
    12.0
    """
    return _by_id(read_yaml(DATA / "segments.yaml", Segment))


@lru_cache
def lines() -> dict[str, Line]:
    """Every named line by id: landmarks joined along the skin, on which points are counted.

    >>> "thigh_inner" in lines()
    True
    """
    return _by_id(read_yaml(DATA / "lines.yaml", Line))


def bare(reference: str) -> str:
    """A reference without the side in front of it.

    >>> bare("left.wrist_crease"), bare("wrist_crease")
    ('wrist_crease', 'wrist_crease')
    """
    head, _, rest = reference.partition(".")
    return rest if head in ("left", "right", "other") else reference


def _known(table: dict[str, T], id: str, kind: str) -> T:
    if id not in table:
        raise UnknownId(message("catalogue-does-not-exist", kind=kind, id=id), where=id)
    return table[id]


def mentioned(place: Place) -> list[str]:
    """Landmark ids a place rests on directly, first mention first (joints and vertices are not landmarks).

    Raises: UnknownId for a line or segment that does not exist.
    """
    match place:
        case str():
            name = bare(place)
            return [] if name.startswith("joint.") else [name]
        case Between():
            return _unique([*mentioned(place.between[0]), *mentioned(place.between[1])])
        case Level():
            return mentioned(place.level)
        case Move():
            return mentioned(place.move)
        case Skin():
            return _unique([*mentioned(place.skin), *(mentioned(place.through) if place.through else [])])
        case Drop():
            return mentioned(place.drop)
        case OnLine():
            line, segment = _known(lines(), place.line, "line"), _known(segments(), place.segment, "segment")
            ends = [place.start, bare(segment.start), bare(segment.end)]
            return _unique([*ends, *mentioned(line.start), *mentioned(line.end)])
        case OnArc():
            segment = _known(segments(), place.arc, "segment")
            return [bare(segment.start), bare(segment.end)]
        case Beside():
            return mentioned(place.beside)
        case Around():
            return mentioned(place.start)
        case _:
            return []


def counted(place: Place) -> OnLine | OnArc | None:
    """The part of a rule that counts along a segment; None where it counts sideways or in nothing."""
    match place:
        case OnLine() | OnArc():
            return place
        case Beside():
            return counted(place.beside)
        case Around():
            return counted(place.start)
        case _:
            return None


def segment_of(place: Place) -> str | None:
    """Id of the segment whose cun a place counts in, if it counts at all."""
    match place:
        case OnLine():
            return place.segment
        case OnArc():
            return place.arc
        case Move():
            return place.cun or segment_of(place.move)
        case Level():
            return segment_of(place.level)
        case Drop():
            return segment_of(place.drop)
        case Skin():
            return segment_of(place.skin) or (segment_of(place.through) if place.through else None)
        case Between():
            return segment_of(place.between[0]) or segment_of(place.between[1])
        case Beside():
            return segment_of(place.beside)
        case Around():
            return segment_of(place.start)
        case _:
            return None


def _unique(names: list[str]) -> list[str]:
    return list(dict.fromkeys(names))
