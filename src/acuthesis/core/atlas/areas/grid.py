"""Grids: coordinates that the anatomy bends, on a surface laid flat, and the nodes and paths that areas are drawn by.

A grid is built of *columns*, feature lines that run side by side (the groove of the ear between rim and ridge), or of
*rows*, taught levels across a surface (the line behind the balls), each cut into the same zones. Areas name nodes:

    rim_inner@0.4, rim_inner@12056     a share of a feature line's length, or one of its steps
    scapha:0.5,1                       level and zone of a grid, in its own units
    12104, 12057/12252                 a vertex of the base mesh, or the middle of several

From node to node a path follows the line that both lie on, and is straight otherwise.
"""

from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np
from scipy.interpolate import PchipInterpolator

from acuthesis.core.atlas.entries.catalogue import grids, surfaces
from acuthesis.core.atlas.entries.model import Grid, TaughtLevel
from acuthesis.core.body.asset import BodyAsset
from acuthesis.core.body.construct import Place
from acuthesis.core.body.features import Traced, feature_lines, step_on
from acuthesis.core.body.figure import Vector
from acuthesis.core.body.flat import Flat, lay
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message

STEP_CM = 0.12  # of a path across a grid
FAR_CM = 30.0


@dataclass(frozen=True)
class Node:
    """A place (2,) in the plane of a surface, the shares of the lines that it lies on, and its grid, level and zone."""

    place: Vector
    on: dict[str, float] = field(default_factory=dict)
    grid: tuple[str, float, float] | None = None


class GridSurface:
    """A surface of the average figure laid flat, with its feature lines and grids."""

    def __init__(self, asset: BodyAsset, surface: str) -> None:
        """Lay a surface by its id. Raises: UnknownId."""
        if surface not in surfaces():
            raise UnknownId(message("grid-there-no-surface", surface=surface), where=surface)
        self.surface = surfaces()[surface]
        self.flat: Flat = lay(asset, self.surface.laid, self.surface.part)

    @cached_property
    def lines(self) -> dict[str, Traced]:
        """The feature lines of the surface, traced."""
        mine = [line for line in feature_lines().values() if line.surface == self.surface.id]
        return {line.id: Traced(line, self.flat) for line in mine}

    @cached_property
    def grids(self) -> dict[str, "LaidGrid"]:
        """The grids of the surface."""
        return {grid.id: LaidGrid(grid, self) for grid in grids().values() if grid.surface == self.surface.id}

    def grid(self, id: str) -> "LaidGrid":
        """A grid of the surface by its id. Raises: UnknownId."""
        if id not in self.grids:
            raise UnknownId(
                message("grid-no-grid", name=self.surface.name, id=id, grids=", ".join(self.grids)), where=id
            )
        return self.grids[id]

    def line(self, id: str) -> Traced:
        """A line of the surface by its id. Raises: UnknownId."""
        if id not in self.lines:
            raise UnknownId(message("grid-no-line", name=self.surface.name, id=id), where=id)
        return self.lines[id]

    def node(self, text: str) -> Node:
        """A node as data files write it (see the head of this file). Raises: UnknownId, CoreError."""
        if "@" in text:
            name, mark = text.split("@")
            line = self.line(name)
            share = line.share(mark)
            return Node(line.at(share), {name: share})
        if ":" in text:
            name, at = text.split(":")
            level, zone = (float(part) for part in at.split(","))
            return self.grid(name).node(level, zone)
        return Node(step_on(text, self.flat))

    def path(self, start: Node, end: Node) -> Vector:
        """From one node to the next (n, 2), without the last place."""
        shared = [name for name in start.on if name in end.on]
        if shared:
            name = shared[0]
            return self.lines[name].between(start.on[name], end.on[name])[:-1]
        if start.grid and end.grid and start.grid[0] == end.grid[0]:
            return self.grid(start.grid[0]).path(np.array(start.grid[1:]), np.array(end.grid[1:]))
        return start.place[None]


class LaidGrid:
    """A grid on its surface. Levels count along it and zones across, both from 0."""

    def __init__(self, grid: Grid, ground: GridSurface) -> None:
        """Lay a grid. Raises: UnknownId for a line, CoreError for a place that cannot be built."""
        self.grid = grid
        self.ground = ground
        self.columns = [_stretch(ground, text) for text in grid.columns]
        self.levels, self.zones = grid.units
        if grid.rows:
            rows = np.array([_row(row, grid, ground) for row in grid.rows])  # (levels + 1, zones + 1, 2)
            self._rows = PchipInterpolator(np.arange(len(rows)), rows)

    def at(self, places: Vector) -> Vector:
        """Levels and zones (n, 2) as places (n, 2) of the plane. Zones below 0 lie beyond the middle line."""
        level, zone = places[:, 0], np.abs(places[:, 1]) if self.grid.mirrored else places[:, 1]
        low = np.clip(np.floor(zone), 0, self.zones - 1).astype(int)
        share = (zone - low)[:, None]
        if self.columns:
            lines = np.stack([_along(*column, level) for column in self.columns])  # (zones + 1, n, 2)
        else:
            lines = np.moveaxis(self._rows(level), 1, 0)
        index = np.arange(len(level))
        found = lines[low, index] * (1 - share) + lines[low + 1, index] * share
        if self.grid.mirrored:
            found[:, 0] *= np.where(places[:, 1] < 0, -1, 1)
        return np.asarray(found)

    def node(self, level: float, zone: float) -> Node:
        """The node at a level and a zone; on a column it lies on that line."""
        on = {}
        if self.columns and zone == int(zone):
            line, start, end = self.columns[int(zone)]
            on[line.line.id] = start + level * (end - start)
        return Node(self.at(np.array([[level, zone]]))[0], on, (self.grid.id, level, zone))

    def path(self, start: Vector, end: Vector) -> Vector:
        """From one level and zone (2,) straight within the grid to another, bent as it is, without the last place."""
        if self.columns and start[1] == end[1] == int(start[1]):
            line, low, high = self.columns[int(start[1])]
            return line.between(*(low + level * (high - low) for level in (start[0], end[0])))[:-1]
        if self.columns and start[0] == end[0]:  # across a band a cut is straight
            return self.at(start[None])
        length = np.linalg.norm(np.subtract(*self.at(np.stack([start, end]))))
        share = np.linspace(0, 1, max(int(length / STEP_CM), 1), endpoint=False)[:, None]
        return self.at(start * (1 - share) + end * share)


def _stretch(ground: GridSurface, text: str) -> tuple[Traced, float, float]:
    """A line and the shares from which to which it is a column: `rim_edge`, or `rim_edge@12014..12012`."""
    name, _, marks = text.partition("@")
    line = ground.line(name)
    start, _, end = marks.partition("..")
    return (line, line.share(start), line.share(end)) if marks else (line, 0.0, 1.0)


def _along(line: Traced, start: float, end: float, level: Vector) -> Vector:
    share = start + level * (end - start)
    return np.stack([np.interp(share, line.shares, line.places[:, axis]) for axis in range(2)], axis=1)


def _row(row: TaughtLevel, grid: Grid, ground: GridSurface) -> Vector:
    """The corners (zones + 1, 2) of a level: at its own places, or at shares of the way between two."""
    places = np.array([corner(place, ground) for place in row.at])
    if grid.across:
        upright = np.array([corner(place, ground)[0] for place in grid.across])
        return np.stack([upright, np.full(len(upright), places[0, 1])], axis=1)
    if row.edge:
        low, high = _to_edge(places[[0, -1]], ground.flat)
        places[0] = low if row.edge != "last" else places[0]
        places[-1] = high if row.edge != "first" else places[-1]
    if len(places) == grid.units[1] + 1 and not row.shares:
        return places
    shares = np.array(row.shares) if row.shares else np.linspace(0, 1, grid.units[1] + 1)
    return np.asarray(places[0] + shares[:, None] * (places[-1] - places[0]))


def corner(place: Place, ground: GridSurface) -> Vector:
    """A place of the average figure in the plane (2,) of a surface."""
    flat = ground.flat
    return np.asarray(flat.flat(flat.body.places.at(place, "left")[None])[0])


def _to_edge(ends: Vector, flat: Flat) -> tuple[Vector, Vector]:
    """Both ends (2, 2) of a level moved along it to where the surface ends."""
    middle, way = ends.mean(axis=0), (ends[-1] - ends[0]) / np.linalg.norm(ends[-1] - ends[0])
    stretches = flat.stretches(middle - FAR_CM * way, middle + FAR_CM * way)
    reach = np.array(stretches).ravel() - FAR_CM
    inner = ends @ way - middle @ way
    # A gap beside (another toe) does not count: the ends go to the border nearest to where they are.
    low = reach[np.abs(reach - inner[0]).argmin()]
    high = reach[np.abs(reach - inner[-1]).argmin()]
    return middle + low * way, middle + high * way


@lru_cache(maxsize=64)
def ground(asset: BodyAsset, surface: str) -> GridSurface:
    """A surface laid flat, once for an asset. Raises: UnknownId."""
    return GridSurface(asset, surface)
