"""Slabs of different planes: how far apart they are in space, and how fast that can change.

Each slab is wrapped in a convex prism (`anakinema.geometry.convex`). Where the nearest points of
two wraps are points of the slabs, their distance is that of the slabs; else the slabs are compared
piece by piece. Slabs of planes that stay parallel are compared as outlines, exactly. Bounds and
proof: docs/methods.md, "Clearance in space".
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.comparing import Approach, Approaches, Around, Point, Seen
from anakinema.analysis.sinking import sunk
from anakinema.document.resolve import Resolved
from anakinema.geometry.apart import Apart, Between, apart
from anakinema.geometry.contour import Floats
from anakinema.geometry.convex import Convex
from anakinema.geometry.distance import Question, distances
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.space_pairs import Carried, Guided, Links, SpacePair, Spanned, standing
from anakinema.motion.bounded import Bounded
from anakinema.wanted import still_wanted

FEW = 6
"""Pairs of pieces that are measured at once at a place."""
ROUGH = 0.1
"""mm to which it is known what a piece cannot be nearer by."""
FLIP = np.array([[1.0, 0.0, 0.0], [0.0, -1.0, 0.0], [0.0, 0.0, -1.0]])
"""Turns a plane over about its x."""


class InSpace:
    """How slabs of different planes are compared: see `anakinema.analysis.comparing.Comparing`."""

    directions = 3

    def __init__(self, resolved: Resolved) -> None:
        self.resolved = resolved

    def seen(
        self, asked: Sequence[tuple[SpacePair, Floats]], enough: float | Floats = np.inf
    ) -> list[Seen]:
        """Distances of pairs at poses (N, B, 3) each. What has wraps ``enough`` mm apart, one
        number for all or (N,), is not compared closer."""
        places = [_relative(*_standing_both(item, poses)) for item, poses in asked]
        steep = [k for k, (item, _) in enumerate(asked) if not item.is_level]
        found: dict[int, Seen] = {}
        if steep:
            wraps = apart(
                [
                    Between(asked[k][0].first.solid.wrap, asked[k][0].second.solid.wrap, places[k])
                    for k in steep
                ]
            )
            for k, wrap in zip(steep, wraps, strict=True):
                found[k] = _of_slabs(asked[k][0], places[k], wrap, enough)
        return [
            found[k] if k in found else _level(item, places[k]) for k, (item, _) in enumerate(asked)
        ]

    def curve(self, items: Sequence[SpacePair], poses: Floats) -> Floats:
        """(N,) mm, the smallest gap of pairs at each of the poses (N, B, 3)."""
        asked = [(item, poses) for item in items]
        best = np.full(len(poses), np.inf)
        roughly = self.seen(asked, 0.0)
        for seen in roughly:
            best = np.where(seen.is_exact, np.minimum(best, seen.distance), best)
        least = np.array([seen.least.min() for seen in roughly])
        for k in np.argsort(least):
            rows = np.flatnonzero(~roughly[k].is_exact & (roughly[k].least < best))
            if len(rows):
                seen = self.seen([(items[k], poses[rows])], best[rows])[0]
                best[rows] = np.where(
                    seen.is_exact, np.minimum(best[rows], seen.distance), best[rows]
                )
        return best

    def circles(self, items: Sequence[SpacePair], poses: Floats) -> list[Floats]:
        """(N,) mm between the bounding spheres of each pair at poses (N, B, 3)."""
        ways = _Ways(poses)
        found = []
        for item in items:
            one, two = (ways.middle(side) for side in (item.first, item.second))
            far = np.linalg.norm(two - one, axis=1)
            found.append(far - item.first.solid.wrap.radius - item.second.solid.wrap.radius)
        return found

    def approaches(self, items: Sequence[SpacePair], states: Bounded, reach: Floats) -> Approaches:
        """How near and fast pairs can come within ``reach`` (N,) of each state."""
        return _Approaches(self._between(items, states, reach))

    def _between(
        self, items: Sequence[SpacePair], states: Bounded, reach: Floats
    ) -> list[_Approach]:
        ways = _Ways(states.poses)
        known: dict[int, _Moving] = {}

        def moving(side: Carried | Spanned) -> _Side:
            ends = []
            for guide in side.guides:
                if id(guide) not in known:
                    known[id(guide)] = _moving(guide, states, reach, ways)
                ends.append(known[id(guide)])
            if isinstance(side, Carried):
                return _Side(side.solid.wrap, ends[0].place, ends[0].centre, tuple(ends))
            middle = (ends[0].centre + ends[1].centre) / 2
            return _Side(side.solid.wrap, side.standing(states.poses), middle, tuple(ends))

        return [_Approach.between(moving(item.first), moving(item.second)) for item in items]

    def around(self, items: Sequence[SpacePair], at: Around) -> Approach:
        """The same over stretches of several pairs."""
        return _Each(
            [
                (rows, self._between([items[k]], at.bounded(rows), at.half[rows])[0])
                for k, rows in at.grouped()
            ]
        )

    def rings(self, item: SpacePair, states: Bounded, half: Floats) -> Floats | None:
        """No rings hold slabs of different planes apart."""
        return None

    def load(self, item: SpacePair) -> int:
        """Nothing that rings could spare."""
        return 0

    def depth(self, item: SpacePair, poses: Floats) -> float:
        """mm by which two slabs share space at poses (B, 3)."""
        place = _relative(*_standing_both(item, poses[None]))[0]
        return sunk(item.first.solid, item.second.solid, place)

    def near(self, item: SpacePair, poses: Floats) -> Indices:
        """Rows of poses (N, B, 3) at which the bounding spheres of two slabs meet."""
        places = _relative(*_standing_both(item, poses))
        return np.flatnonzero(
            _spheres(item.first.solid.wrap, item.second.solid.wrap, places) <= 0.0
        )

    def may_rest(self, item: SpacePair) -> bool:
        """Nothing rests in something of another plane."""
        return False

    def points(self, item: SpacePair, seen: Seen, poses: Floats) -> tuple[Point, Point]:
        """The nearest points in space, seen at poses (B, 3) alone."""
        if item.rod is not None:
            frame = item.first.standing(poses[None])[0]
        else:
            planes, heights = self.resolved.planes, self.resolved.heights
            frame = planes.places(poses, heights, np.zeros(len(poses)))[item.first_body]
        first, second = (frame[:, :3] @ p[0] + frame[:, 3] for p in (seen.first, seen.second))
        return tuple(first.tolist()), tuple(second.tolist())


class _Ways:
    """Where links put bodies at some poses (N, B, 3), each way once; alike links are the same."""

    def __init__(self, poses: Floats) -> None:
        self._poses = poses
        self._places: dict[tuple[int, ...], Floats] = {}
        self._middles: dict[int, Floats] = {}

    def place(self, links: Links) -> Floats:
        """(N, 3, 4) of the last link's body."""
        key = tuple(id(link) for link in links)
        if key not in self._places:
            self._places[key] = standing(links, self._poses)
        return self._places[key]

    def point(self, guide: Guided) -> Floats:
        """(N, 3) of what guides something."""
        place = self.place(guide.links)
        return np.asarray(place[:, :, :3] @ guide.point + place[:, :, 3])

    def middle(self, side: Carried | Spanned) -> Floats:
        """(N, 3) of the sphere round a side."""
        if id(side) not in self._middles:
            points = [self.point(guide) for guide in side.guides]
            middle = points[0] if len(points) == 1 else (points[0] + points[1]) / 2
            self._middles[id(side)] = middle
        return self._middles[id(side)]


@dataclass(frozen=True, slots=True, eq=False)
class _Approaches:
    """Those of several pairs."""

    parts: Sequence[_Approach]

    @property
    def circles(self) -> Floats:
        """(I, N) mm between the spheres round both."""
        return np.array([each.circles for each in self.parts])

    @property
    def speed(self) -> Floats:
        """(I, N) mm per unit of progress."""
        return np.array([each.speed for each in self.parts])

    def closer(self, kept: Indices) -> _Approaches:
        """Those of some of the pairs; there are no better bounds."""
        return _Approaches([self.parts[k] for k in kept.tolist()])

    def at(self, which: Indices, rows: Indices) -> _Each:
        """Of pairs at states."""
        meant = [(k, np.flatnonzero(which == k)) for k in np.unique(which).tolist()]
        return _Each([(own, self.parts[k].taken(rows[own])) for k, own in meant])


@dataclass(frozen=True, slots=True, eq=False)
class _Each:
    """Several approaches, each at some rows of its own of all (N,)."""

    parts: Sequence[tuple[Indices, _Approach]]

    def taken(self, rows: Indices) -> _Each:
        """The same for some of the rows."""
        place = np.full(sum(len(own) for own, _ in self.parts), -1)
        place[rows] = np.arange(len(rows))
        parts = []
        for own, part in self.parts:
            left = np.flatnonzero(place[own] >= 0)
            if len(left):
                parts.append((place[own[left]], part.taken(left)))
        return _Each(parts)

    def strip(self, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm, each by its own."""
        return self._joined([part.strip(facing[own], reach[own]) for own, part in self.parts])

    def low(self, least: Floats, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm, each by its own."""
        return self._joined(
            [part.low(least[own], facing[own], reach[own]) for own, part in self.parts]
        )

    def _joined(self, found: list[Floats]) -> Floats:
        out = np.empty(sum(len(own) for own, _ in self.parts))
        for (own, _), some in zip(self.parts, found, strict=True):
            out[own] = some
        return out


def _standing_both(item: SpacePair, poses: Floats) -> tuple[Floats, Floats]:
    return item.first.standing(poses), item.second.standing(poses)


def _relative(first: Floats, second: Floats) -> Floats:
    """(N, 3, 4) the second place as seen from the first, both (N, 3, 4)."""
    back = np.swapaxes(first[:, :, :3], 1, 2)
    out = back @ second
    out[:, :, 3] -= np.einsum("nij,nj->ni", back, first[:, :, 3])
    return np.asarray(out)


def _spheres(one: Convex, two: Convex, places: Floats) -> Floats:
    """(N,) mm between bounding spheres, the second at places (N, 3, 4) as the first sees it."""
    centre = places[:, :, :3] @ two.centre + places[:, :, 3]
    return np.asarray(np.linalg.norm(centre - one.centre, axis=1) - one.radius - two.radius)


def _of_slabs(item: SpacePair, places: Floats, wrap: Apart, enough: float | Floats) -> Seen:
    """What two slabs are apart, from what their wraps are."""
    count = len(places)
    is_exact = np.zeros(count, dtype=bool)
    seen = Seen(wrap.distance, wrap.least, wrap.direction, wrap.first, wrap.second, is_exact)
    rows = _unsettled(item, places, seen, np.arange(count), enough)
    if not len(rows):
        return seen
    covers = item.first.solid.covers(), item.second.solid.covers()
    for layer in range(max(map(len, covers))):
        if not len(rows):
            break
        first, second = (each[min(layer, len(each) - 1)] for each in covers)
        if len(first) * len(second) > 1:
            search = _Nearest(item, first, second, places[rows])
            search.run()
            search.put(rows, seen)
            rows = _unsettled(item, places, seen, rows, enough)
    is_exact[rows] = True
    return seen


def _unsettled(
    item: SpacePair, places: Floats, seen: Seen, rows: Indices, enough: float | Floats
) -> Indices:
    """Those rows whose nearest points are not points of both slabs, and are not ``enough`` apart;
    marks those that are exact."""
    if item.first.solid.is_convex and item.second.solid.is_convex:
        seen.is_exact[rows] = True
        return rows[:0]
    back = seen.second[rows] - places[rows, :, 3]
    back = np.einsum("nji,nj->ni", places[rows, :, :3], back)
    real = item.first.solid.holds(seen.first[rows]) & item.second.solid.holds(back)
    real &= seen.distance[rows] > 0.0
    seen.is_exact[rows] = real
    far = seen.least[rows] >= np.broadcast_to(enough, len(places))[rows]
    return rows[~real & ~(far & (seen.distance[rows] > 0.0))]


class _Nearest:
    """The nearest of many pieces of two slabs at N places."""

    def __init__(
        self, item: SpacePair, first: tuple[Convex, ...], second: tuple[Convex, ...], places: Floats
    ) -> None:
        self.item, self.pieces, self.places = item, (first, second), places
        count = len(places)
        self.distance = np.full(count, np.inf)
        self.least = np.full(count, np.inf)
        self.direction = np.full((count, 3), np.nan)
        self.first, self.second = np.zeros((count, 3)), np.zeros((count, 3))
        self.slack = max(p.slack for p in first) + max(p.slack for p in second)

    def run(self) -> None:
        """Those pieces first that are nearest to the other's wrap; then whatever could be nearer
        than what has been seen."""
        first, second = self.pieces
        wraps = self.item.first.solid.wrap, self.item.second.solid.wrap
        one = self._each([Between(p, wraps[1], self.places) for p in first])
        two = self._each([Between(wraps[0], p, self.places) for p in second])
        low = np.maximum(one[:, :, None], two[:, None, :]).reshape(len(self.places), -1)
        rows = np.arange(len(low))
        while len(rows):
            still_wanted()
            some = min(FEW, low.shape[1])
            nearest = np.argpartition(low[rows], some - 1, axis=1)[:, :some]
            wanted = np.take_along_axis(low[rows], nearest, axis=1) < self.distance[rows, None]
            at, which = np.nonzero(wanted)
            self._take(rows[at], nearest[at, which])
            low[rows[:, None], nearest] = np.inf
            rows = rows[low[rows].min(axis=1) < self.distance[rows]]

    def _each(self, asked: list[Between]) -> Floats:
        """(N, P) what pieces cannot be nearer by to a wrap."""
        if len(asked) == 1:
            return np.zeros((len(self.places), 1))
        return np.stack([found.least for found in apart(asked, met=ROUGH)], axis=1)

    def _take(self, rows: Indices, pairs: Indices) -> None:
        """Measure ``pairs`` (M,) of pieces at some rows (M,)."""
        order = np.argsort(pairs, kind="stable")
        kinds, starts = np.unique(pairs[order], return_index=True)
        groups = np.split(rows[order], starts[1:])
        first, second = self.pieces
        asked = [
            Between(first[k // len(second)], second[k % len(second)], self.places[group])
            for k, group in zip(kinds.tolist(), groups, strict=True)
        ]
        for group, found in zip(groups, apart(asked) if asked else [], strict=True):
            self.least[group] = np.minimum(self.least[group], found.least)
            better = found.distance < self.distance[group]
            row = group[better]
            self.distance[row], self.direction[row] = (
                found.distance[better],
                found.direction[better],
            )
            self.first[row], self.second[row] = found.first[better], found.second[better]

    def put(self, rows: Indices, seen: Seen) -> None:
        """Put what was found into rows of what is seen."""
        seen.distance[rows] = self.distance
        seen.least[rows] = np.maximum(self.least - self.slack, 0.0)
        seen.facing[rows] = self.direction
        seen.first[rows], seen.second[rows] = self.first, self.second


def _level(item: SpacePair, places: Floats) -> Seen:
    """Slabs of parallel planes: their outlines in the plane of the first, and the way between
    their heights."""
    first, second = item.first.solid, item.second.solid
    assert first.region is not None and second.region is not None
    over = bool((places[:, 2, 2] < 0.0).any())
    region = second.region.turned_over() if over else second.region
    turned = places[:, :, :3] @ FLIP if over else places[:, :, :3]
    angle = np.arctan2(turned[:, 1, 0], turned[:, 0, 0])
    relative = np.column_stack([places[:, :2, 3], angle])
    whole = np.ones((len(first.region.ring), len(region.ring)), dtype=bool)
    flat = distances([Question(first.region, region, relative, whole, True)])[0]
    ends = np.array([second.bottom, second.top]) * (-1.0 if over else 1.0)
    low, high = places[:, 2, 3] + ends.min(), places[:, 2, 3] + ends.max()
    above, below = low - first.top, first.bottom - high
    rise = np.maximum(np.maximum(above, below), 0.0)
    distance = np.hypot(flat.distance, rise)
    one = np.column_stack([flat.first_point, np.where(above > 0.0, first.top, first.bottom)])
    two = one.copy()
    two[:, :2] = flat.second_point
    two[:, 2] += np.where(above > 0.0, rise, -rise)
    inside = rise <= 0.0
    one[inside, 2] = two[inside, 2] = np.maximum(low, first.bottom)[inside]
    with np.errstate(invalid="ignore", divide="ignore"):
        facing = (two - one) / distance[:, None]
    # Where outlines overlap seen from above, the nearest points lie one over the other.
    facing[distance == 0.0] = np.nan
    is_exact = np.ones(len(distance), dtype=bool)
    return Seen(distance, distance.copy(), facing, one, two, is_exact)


@dataclass(frozen=True, slots=True, eq=False)
class _Turning:
    """What one link does to a slab at N states: it moves it at right angles to its ``axis`` (N, 3).

    loose, rims (N,): how much the rate of the slab's middle can change along that plane, and what
    spin adds at its rims. tipping (N,): what both make of it as the plane itself turns.
    """

    axis: Floats
    loose: Floats
    rims: Floats
    tipping: Floats


@dataclass(frozen=True, slots=True, eq=False)
class _Moving:
    """A point on its links at N states: where its body stands (N, 3, 4), itself (N, 3), its rate
    (N, 3), and what each link can add to that over a stretch."""

    place: Floats
    centre: Floats
    rate: Floats
    links: tuple[_Turning, ...]

    @property
    def loose(self) -> Floats:
        """(N,) what the links add at most, whatever the direction."""
        each = [link.loose + link.rims + link.tipping for link in self.links]
        return np.asarray(sum(each, np.zeros(len(self.centre))))

    def taken(self, rows: Indices) -> _Moving:
        """The same for some of the states."""
        links = tuple(
            _Turning(link.axis[rows], link.loose[rows], link.rims[rows], link.tipping[rows])
            for link in self.links
        )
        return _Moving(self.place[rows], self.centre[rows], self.rate[rows], links)

    def along(self, normal: Floats) -> Floats:
        """(N,) what the links add at most along directions (N, 3)."""
        found = np.zeros(len(normal))
        for link in self.links:
            sine = np.linalg.norm(np.cross(normal, link.axis), axis=1)
            found = found + sine * (link.loose + link.rims) + link.tipping
        return found


def _moving(guide: Guided, states: Bounded, reach: Floats, ways: _Ways) -> _Moving:
    links = guide.links
    place, centre = ways.place(links), ways.point(guide)
    count = len(place)
    rate = np.zeros((count, 3))
    spins = [states.speed_most[:, link.body, 2] for link in links]
    # How fast the middle can move as each link's body sees it, from the last link back.
    past = np.zeros(count)
    found = []
    for k in range(len(links) - 1, -1, -1):
        body = links[k].body
        plane = np.asarray(ways.place(links[:k])[:, :, :3] @ links[k].frame[:, :3])
        now, most = states.first[:, body], states.speed_most[:, body]
        more = np.maximum(most - np.abs(now), 0.0)
        origin = ways.place(links[: k + 1])[:, :, 3]
        arm = np.einsum("nji,nj->ni", plane, centre - origin)[:, :2]
        length = np.hypot(*arm.T)
        farthest = length + reach * past
        own = np.hypot(most[:, 0], most[:, 1]) + most[:, 2] * farthest
        flat = now[:, :2] + now[:, 2:] * np.stack([-arm[:, 1], arm[:, 0]], axis=1)
        rate = rate + np.einsum("nij,nj->ni", plane[:, :, :2], flat)
        loose = np.hypot(more[:, 0], more[:, 1]) + more[:, 2] * length
        loose = loose + most[:, 2] * reach * (most[:, 2] * farthest + past)
        is_last = k == len(links) - 1
        rims = most[:, 2] * (guide.turning if is_last else guide.radius)
        tipping = reach * sum(spins[:k], np.zeros(count)) * (own + rims)
        found.append(_Turning(plane[:, :, 2], loose, rims, tipping))
        past = past + own
    return _Moving(place, centre, rate, tuple(found))


@dataclass(frozen=True, slots=True, eq=False)
class _Side:
    """One side of a comparison at N states: its frame (N, 3, 4), the middle (N, 3) of its sphere,
    and the points that tell how fast it moves: none of it is faster than the fastest of them."""

    wrap: Convex
    place: Floats
    centre: Floats
    ends: tuple[_Moving, ...]

    def taken(self, rows: Indices) -> _Side:
        """The same for some of the states."""
        ends = tuple(end.taken(rows) for end in self.ends)
        return _Side(self.wrap, self.place[rows], self.centre[rows], ends)


@dataclass(frozen=True, slots=True, eq=False)
class _Approach:
    """See `anakinema.analysis.comparing.Approach`."""

    first: _Side
    second: _Side
    circles: Floats
    speed: Floats

    @staticmethod
    def between(one: _Side, two: _Side) -> _Approach:
        """From how each of two sides moves."""
        circles = np.linalg.norm(two.centre - one.centre, axis=1)
        circles = circles - one.wrap.radius - two.wrap.radius
        speeds = [
            np.linalg.norm(b.rate - a.rate, axis=1) + a.loose + b.loose
            for a in one.ends
            for b in two.ends
        ]
        return _Approach(one, two, circles, np.max(speeds, axis=0))

    def taken(self, rows: Indices) -> _Approach:
        """The same for some of the poses."""
        first, second = self.first.taken(rows), self.second.taken(rows)
        return _Approach(first, second, self.circles[rows], self.speed[rows])

    def strip(self, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm from the strip between the wraps at right angles to ``facing`` (N, 3)."""
        one, two = self.first, self.second
        normal = np.einsum("nij,nj->ni", one.place[:, :, :3], facing)
        back = -np.einsum("nji,nj->ni", two.place[:, :, :3], normal)
        known = ~np.isnan(facing[:, 0])
        width = np.full(len(facing), np.nan)
        origins = np.einsum("ni,ni->n", normal, two.place[:, :, 3] - one.place[:, :, 3])
        reaches = one.wrap.reach(facing[known]) + two.wrap.reach(back[known])
        width[known] = origins[known] - reaches
        across = [
            np.abs(np.einsum("ni,ni->n", normal, b.rate - a.rate))
            + a.along(normal)
            + b.along(normal)
            for a in one.ends
            for b in two.ends
        ]
        return np.asarray(width - np.max(across, axis=0) * reach)

    def low(self, least: Floats, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm: the better of the strip and what is known to be apart less the path."""
        general = least - self.speed * reach
        return np.where(least > 0, np.fmax(general, self.strip(facing, reach)), general)
