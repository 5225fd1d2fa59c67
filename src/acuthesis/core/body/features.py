"""Feature lines: what the body's own shape draws on a surface (rim, groove, ridge), marked once on the base mesh."""

from functools import lru_cache
from itertools import pairwise
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field
from scipy.interpolate import PchipInterpolator

from acuthesis.core.body.catalogue import DATA, read_yaml
from acuthesis.core.body.figure import Vector
from acuthesis.core.body.flat import Flat
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message

SAMPLES = 24  # places between two steps of a line


class FeatureLine(BaseModel):
    """A line through vertices of the base mesh; a step is one, or the middle of several: `12045/12054`."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    surface: str
    name: str
    kind: Literal["crest", "valley", "slope"]
    through: tuple[str | int, ...] = Field(min_length=2)
    straight: bool = False


class Traced:
    """A line in the plane of its surface: `places` (n, 2), and the `shares` (n,) of its length gone at each."""

    def __init__(self, line: FeatureLine, flat: Flat) -> None:
        """Trace a line on its surface. Raises: CoreError for a vertex that lies elsewhere."""
        self.line = line
        steps = np.array([step_on(step, flat) for step in line.through])
        gone = np.concatenate([[0.0], np.linalg.norm(np.diff(steps, axis=0), axis=1).cumsum()])
        if line.straight:
            at = gone
            self.places = steps
        else:
            at = np.unique(np.concatenate([np.linspace(a, b, SAMPLES) for a, b in pairwise(gone)]))
            self.places = np.asarray(PchipInterpolator(gone, steps)(at))
        along = np.concatenate([[0.0], np.linalg.norm(np.diff(self.places, axis=0), axis=1).cumsum()])
        self.shares = along / along[-1]
        self.steps = {
            str(step): float(np.interp(g, at, self.shares)) for step, g in zip(line.through, gone, strict=True)
        }

    def at(self, share: float) -> Vector:
        """The place (2,) at a share of its length."""
        return np.array([np.interp(share, self.shares, self.places[:, axis]) for axis in range(2)])

    def share(self, mark: str) -> float:
        """A share given as a number, or as one of the line's own steps. Raises: UnknownId."""
        if mark in self.steps:
            return self.steps[mark]
        try:
            return float(mark)
        except ValueError:
            raise UnknownId(message("features-line-no-step", id=self.line.id, mark=mark), where=self.line.id) from None

    def between(self, start: float, end: float) -> Vector:
        """The stretch (n, 2) from one share to another, both ends included, in that direction."""
        low, high = sorted((start, end))
        inner = self.places[(self.shares > low) & (self.shares < high)]
        stretch = np.concatenate([[self.at(low)], inner, [self.at(high)]])
        return stretch if start <= end else stretch[::-1]


def step_on(step: str | int, flat: Flat) -> Vector:
    """A step (2,) of a line: a vertex, or the middle of several. Raises: CoreError."""
    try:
        numbers = [int(part) for part in str(step).split("/")]
    except ValueError:
        raise CoreError(message("features-no-vertex-no-middle-vertices", step=step), where=str(step)) from None
    return np.asarray(np.mean([flat.vertex(number) for number in numbers], axis=0))


@lru_cache
def feature_lines() -> dict[str, FeatureLine]:
    """Every feature line by id.

    >>> len(feature_lines()) > 10
    True
    """
    return {line.id: line for line in read_yaml(DATA / "features.yaml", FeatureLine)}
