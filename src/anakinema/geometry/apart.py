"""How far convex bodies in space are apart, for many poses at once.

The nearest points of two convex bodies are the point of their difference that is nearest to the
origin (E. Gilbert, D. Johnson and S. Keerthi, IEEE J. Robotics and Automation 4, 1988, from
memory).
Any direction gives a true lower bound by how far both reach along it, and any two points an upper
one, so the search need not be trusted: what it returns is how far the two bounds have met.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.geometry.convex import Convex, Supports
from anakinema.wanted import still_wanted

MET = 1e-8
"""mm to which the two bounds are brought together."""
MOST_TURNS = 60
FLAT = 1e-14
"""Share of its size below which a simplex has no volume."""


@dataclass(frozen=True, slots=True, eq=False)
class Between:
    """Two bodies and where the second stands as the first sees it, (N, 3, 4)."""

    first: Convex
    second: Convex
    places: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Apart:
    """How far two bodies are apart at N poses, seen from the first.

    distance (N,): mm between the points ``first`` and ``second`` (N, 3), 0 where they share space.
    least (N,): what it cannot be less than. direction (N, 3): unit vectors from the first to the
    second, NaN where they share space.
    """

    distance: Floats
    least: Floats
    first: Floats
    second: Floats
    direction: Floats


def apart(asked: Sequence[Between], met: float = MET) -> list[Apart]:
    """Distances of pairs of convex bodies, all found together; bounds meet within ``met`` mm."""
    counts = [len(each.places) for each in asked]
    ends = np.cumsum(counts)
    search = _Search(asked, met)
    search.run()
    return [
        search.found(k, int(end) - count, int(end))
        for k, (count, end) in enumerate(zip(counts, ends, strict=True))
    ]


class _Search:
    """Simplexes of up to three points each (repeated where there are fewer) that shrink towards the
    nearest point; rows are poses of all pairs one after another."""

    def __init__(self, asked: Sequence[Between], met: float) -> None:
        self.asked, self.met = asked, met
        places = np.concatenate([each.places for each in asked])
        self.turned, self.origin = places[:, :, :3], places[:, :, 3]
        count = len(places)
        counts = [len(each.places) for each in asked]
        middle = np.repeat([each.first.centre for each in asked], counts, axis=0)
        other = np.repeat([each.second.centre for each in asked], counts, axis=0)
        other = np.einsum("nij,nj->ni", self.turned, other) + self.origin
        self.sides = Supports([a.first for a in asked]), Supports([a.second for a in asked])
        self.which = tuple(np.repeat(side.numbers, counts) for side in self.sides)
        self.on_first = middle
        self.nearest = middle - other
        """(N, 3) the nearest point of the difference so far: first less second."""
        self.least = np.full(count, -np.inf)
        self.along = np.zeros((count, 3))
        # Middles lie in their bodies.
        self.shares = np.abs(self.nearest).max(axis=1, initial=0.0) <= 1e-12
        # Corners of the simplex, as points of the difference and of the first body.
        self.corners = np.repeat(self.nearest[:, None], 3, axis=1)
        self.firsts = np.repeat(middle[:, None], 3, axis=1)

    def run(self) -> None:
        rows = np.flatnonzero(~self.shares)
        for _ in range(MOST_TURNS):
            if not len(rows):
                return
            still_wanted()
            rows = self._turn(rows)

    def _turn(self, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
        """One more point in each simplex; the rows that are not done."""
        near = self.nearest[rows]
        length = np.sqrt(np.einsum("ni,ni->n", near, near))
        point, first = self._farthest_back(rows, near)
        least = np.einsum("ni,ni->n", near, point) / length
        better = least > self.least[rows]
        self.least[rows[better]] = least[better]
        self.along[rows[better]] = near[better] / length[better, None]
        open_ = length - self.least[rows] > self.met
        rows, point, first, length = rows[open_], point[open_], first[open_], length[open_]
        if not len(rows):
            return rows
        corners = np.concatenate([self.corners[rows], point[:, None]], axis=1)
        firsts = np.concatenate([self.firsts[rows], first[:, None]], axis=1)
        weights, kept, near = _nearest_of(corners)
        inside = _holds_origin(corners)
        size = np.sqrt(np.einsum("ni,ni->n", near, near))
        inside |= size <= 1e-12 * (1.0 + np.abs(corners).max(axis=(1, 2)))
        gains = (size < length) & ~inside
        self.shares[rows[inside]] = True
        on = np.einsum("nk,nki->ni", weights, firsts)
        go: npt.NDArray[np.int64] = rows[gains]
        pick = kept[gains][:, :, None]
        self.corners[go] = np.take_along_axis(corners[gains], pick, axis=1)
        self.firsts[go] = np.take_along_axis(firsts[gains], pick, axis=1)
        self.nearest[go], self.on_first[go] = near[gains], on[gains]
        return go

    def _farthest_back(self, rows: npt.NDArray[np.int64], near: Floats) -> tuple[Floats, Floats]:
        """The points of the difference, and of the first body, that lie farthest against
        ``near``."""
        first = self.sides[0].farthest(self.which[0][rows], -near)
        seen = np.einsum("nij,ni->nj", self.turned[rows], near)
        second = self.sides[1].farthest(self.which[1][rows], seen)
        second = np.einsum("nij,nj->ni", self.turned[rows], second) + self.origin[rows]
        return first - second, first

    def found(self, k: int, begin: int, end: int) -> Apart:
        """What was found of a pair, less what both swell by."""
        rows = slice(begin, end)
        one, two = self.asked[k].first.swell, self.asked[k].second.swell
        near = self.nearest[rows]
        length = np.sqrt(np.einsum("ni,ni->n", near, near))
        shares = self.shares[rows] | (length <= one + two)
        along = -self.along[rows]
        direction = np.where(shares[:, None], np.nan, along)
        first = self.on_first[rows]
        second = first - near
        swelled = ~self.shares[rows] & (length > 0)
        away = np.where(swelled[:, None], -near / np.where(length, length, 1.0)[:, None], 0.0)
        first, second = first + one * away, second - two * away
        distance = np.where(shares, 0.0, length - one - two)
        least = np.where(shares, 0.0, np.maximum(self.least[rows] - one - two, 0.0))
        return Apart(distance, np.minimum(least, distance), first, second, direction)


_EDGES = ((3, 0), (3, 1), (3, 2))
_FACES = ((3, 0, 1), (3, 1, 2), (3, 2, 0))
_KEPT = np.array([[3, 0, 3], [3, 1, 3], [3, 2, 3], [3, 0, 1], [3, 1, 2], [3, 2, 0]])
"""Which of four corners are kept where the nearest point lies on an edge or a face."""


def _nearest_of(corners: Floats) -> tuple[Floats, npt.NDArray[np.int64], Floats]:
    """Of simplexes (N, 4, 3) whose newest corner is the last: weights (N, 4) of the point nearest
    to the origin, which corners (N, 3) it takes, and the point (N, 3).

    It lies on an edge or a face with the newest corner, as that is nearer than all there was.
    """
    count = len(corners)
    newest, old = corners[:, 3], corners[:, :3]
    sides = old - newest[:, None]
    square = np.einsum("nki,nki->nk", sides, sides)
    back = -np.einsum("nki,ni->nk", sides, newest)
    points = np.empty((count, 6, 3))
    weights = np.zeros((count, 6, 4))
    share = np.clip(back / np.where(square > 0.0, square, 1.0), 0.0, 1.0)
    share = np.where(square > 0.0, share, 0.0)
    points[:, :3] = newest[:, None] + share[:, :, None] * sides
    for k in range(3):
        weights[:, k, k], weights[:, k, 3] = share[:, k], 1.0 - share[:, k]
    cross = np.einsum("nki,nki->nk", sides, np.roll(sides, -1, axis=1))
    next_square, next_back = np.roll(square, -1, axis=1), np.roll(back, -1, axis=1)
    area = square * next_square - cross**2
    flat = area <= FLAT * square * next_square
    area = np.where(flat, 1.0, area)
    one = (back * next_square - next_back * cross) / area
    two = (next_back * square - back * cross) / area
    off = flat | (one < 0.0) | (two < 0.0) | (one + two > 1.0)
    points[:, 3:] = (
        newest[:, None] + one[:, :, None] * sides + two[:, :, None] * np.roll(sides, -1, axis=1)
    )
    for k in range(3):
        weights[:, 3 + k, k] = one[:, k]
        weights[:, 3 + k, (k + 1) % 3] = two[:, k]
        weights[:, 3 + k, 3] = 1.0 - one[:, k] - two[:, k]
    far = np.einsum("nki,nki->nk", points, points)
    far[:, 3:] = np.where(off, np.inf, far[:, 3:])
    best = np.argmin(far, axis=1)
    row = np.arange(count)
    return weights[row, best], _KEPT[best], points[row, best]


def _holds_origin(corners: Floats) -> npt.NDArray[np.bool_]:
    """(N,) whether tetrahedra (N, 4, 3) hold the origin; none without a volume does."""
    a, b, c, d = (corners[:, k] for k in range(4))

    def volume(p: Floats, q: Floats, r: Floats) -> Floats:
        return np.asarray(np.einsum("ni,ni->n", p, np.cross(q, r)))

    whole = volume(b - a, c - a, d - a)
    size = np.abs(corners - d[:, None]).max(axis=(1, 2)) ** 3
    shares = np.stack(
        [volume(b, c, d), -volume(a, c, d), volume(a, b, d), -volume(a, b, c)], axis=1
    )
    solid = np.abs(whole) > FLAT * size
    return np.asarray(solid & ((shares * np.sign(whole)[:, None]) > 0.0).all(axis=1))
