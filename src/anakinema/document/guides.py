"""How far a pin or a block can go in its slot, fork, groove or on its curve.

A slot's end of material stops what runs in it, by its real play; from the open end of a fork, a
rail or a curve it leaves. Found from the outlines that a joint names, whatever its own limits.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from anakinema.document import model
from anakinema.document.kinds import JointSpec
from anakinema.document.pieces import edges_of, ring_of
from anakinema.document.solids import SolidPart, SolidSlab
from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.geometry.features import Feature, Features, Pairs, features_of
from anakinema.geometry.poses import carried
from anakinema.geometry.region import Region

LOOKS = 600
"""Places along a guide at which it is first looked for an end."""
PARTS, ROUNDS = 16, 30
"""A stretch in which outlines meet is looked at in so many parts, and so many times at most."""
SLIM = 1e-6
"""mm by which rounds are thought thinner, so that exact fits are no ends."""
DEEP = 1e-7
"""mm that a pin must press into its guide's end to have reached it."""
FACING = 1e-6
"""mm or rad by which a pair may fail to face: corners run along the walls beside an end."""
PARALLEL = 1e-6
LEVEL = 1e-3
"""mm across a slide by which walls of one side may differ."""
ROUND = 1e-6
"""mm that a pin's outline may be off a circle about its place."""


@dataclass(frozen=True, slots=True)
class GuideEnd:
    """The value of a joint (raw, rad or mm) at which its guide ends; ``leaves``: it is open."""

    value: float
    leaves: bool


@dataclass(frozen=True, slots=True)
class Guide:
    """The numbers that say how the second body of a joint lies in the first by the joint's value.

    first, second : (x, y, angle) of the two places, mm and rad.
    """

    spec: JointSpec
    first: tuple[float, float, float]
    second: tuple[float, float, float]
    twist: float
    offset: float
    radius: float
    curve: Curve | None

    @property
    def is_angular(self) -> bool:
        """Whether values are angles."""
        return self.spec.is_angular

    @property
    def is_pin(self) -> bool:
        """Whether the second body may turn about its place at any value."""
        return self.spec.is_pin

    def drawn(self, pose: Floats) -> float:
        """The value (raw) at a relative pose (3,) of the second body in the first."""
        at = np.array(carried(pose, self.second))
        x, y, angle = self.first
        if self.curve is not None:
            return float(self.curve.foot(at[None]).s[0])
        if self.spec.has_radius and self.is_pin:
            return math.remainder(math.atan2(at[1] - y, at[0] - x) - angle, math.tau)
        if self.spec.has_radius:
            outward = self.second[2] - self.twist - math.pi / 2
            return math.remainder(float(pose[2]) + outward - angle, math.tau)
        return float((at[0] - x) * math.cos(angle) + (at[1] - y) * math.sin(angle))

    def poses(self, raw: Floats) -> Floats:
        """(N, 3) poses of the second body in the first at values (N,); pins unturned."""
        x, y, angle = self.first
        turn: Floats = np.zeros(len(raw))
        at: Floats
        if self.spec.is_straight:
            ux, uy = math.cos(angle), math.sin(angle)
            at = np.stack(
                [x + raw * ux - self.offset * uy, y + raw * uy + self.offset * ux], axis=1
            )
            if not self.is_pin:
                turn = turn + angle + self.twist - self.second[2]
        elif self.spec.has_radius and self.is_pin:
            way = angle + raw
            at = np.stack([x + self.radius * np.cos(way), y + self.radius * np.sin(way)], axis=1)
        elif self.spec.has_radius:
            outward = self.second[2] - self.twist - math.pi / 2
            turn = np.asarray(raw + angle - outward)
            px, py = self.second[:2]
            cx = px - self.radius * math.cos(outward)
            cy = py - self.radius * math.sin(outward)
            c, s = np.cos(turn), np.sin(turn)
            return np.stack([x - c * cx + s * cy, y - s * cx - c * cy, turn], axis=1)
        else:
            assert self.curve is not None
            # Beyond its ends an open curve runs on straight.
            on = raw if self.curve.is_closed else np.clip(raw, 0.0, self.curve.length)
            points, foot = self.curve.at(on)
            ahead = np.stack([np.cos(foot.direction), np.sin(foot.direction)], axis=1)
            at = points + (raw - on)[:, None] * ahead
            at = at + self.offset * np.stack([-ahead[:, 1], ahead[:, 0]], axis=1)
            if not self.is_pin:
                turn = np.asarray(foot.direction + self.twist - self.second[2])
        c, s = np.cos(turn), np.sin(turn)
        px, py = self.second[:2]
        return np.stack([at[:, 0] - c * px + s * py, at[:, 1] - s * px - c * py, turn], axis=1)


def guide_ends(
    joint: model.Joint,
    guide: Guide,
    parts: tuple[SolidPart, SolidPart],
    heights: tuple[float, float],
    drawn: float,
) -> tuple[GuideEnd | None, GuideEnd | None]:
    """Where the guide of a joint ends below and above the value ``drawn`` (raw).

    ``parts`` and ``heights`` (mm) of the first and second body.
    """
    low: list[GuideEnd] = []
    high: list[GuideEnd] = []
    named = list(_named_pairs(joint, parts, heights))
    for (p, a), (q, b) in named:
        if guide.is_pin and not _is_round_about(b.region, q, guide.second):
            continue
        if p.hole is None and q.hole is None and p.edges is None:
            continue
        rings = ring_of(a.region, p), ring_of(b.region, q)
        ends = _closed_ends(guide, a.region, rings[0], b.region, rings[1], drawn)
        low += [GuideEnd(ends[0], False)] if ends[0] is not None else []
        high += [GuideEnd(ends[1], False)] if ends[1] is not None else []
    opens = _open_ends(guide, named)
    if not low and opens[0] is not None:
        low.append(GuideEnd(opens[0], True))
    if not high and opens[1] is not None:
        high.append(GuideEnd(opens[1], True))
    return (
        max(low, key=lambda end: end.value, default=None),
        min(high, key=lambda end: end.value, default=None),
    )


Named = tuple[model.OutlinePiece, SolidSlab]


def _named_pairs(
    joint: model.Joint, parts: tuple[SolidPart, SolidPart], heights: tuple[float, float]
) -> Iterator[tuple[Named, Named]]:
    """Pieces of both sides that lie at heights they share."""
    slabs = [{slab.id: slab for slab in part.slabs} for part in parts]
    for p in joint.first.pieces:
        for q in joint.second.pieces:
            a, b = slabs[0].get(p.slab), slabs[1].get(q.slab)
            if a is None or b is None:
                continue
            low = max(heights[0] + a.bottom, heights[1] + b.bottom)
            if min(heights[0] + a.top, heights[1] + b.top) - low > 1e-9:
                yield (p, a), (q, b)


def _is_round_about(
    region: Region, piece: model.OutlinePiece, place: tuple[float, float, float]
) -> bool:
    """Whether a piece is of a circle about a place."""
    ring = region.ring == ring_of(region, piece)
    edges = region.edges
    off = np.abs(edges.centre[ring] - np.array(place[:2])).max(initial=0.0)
    return bool(edges.is_arc[ring].all()) and off < ROUND and piece.hole is None


@lru_cache(maxsize=256)
def _closed_ends(
    guide: Guide, one: Region, one_ring: int, two: Region, two_ring: int, drawn: float
) -> tuple[float | None, float | None]:
    """Values at which the second outline first meets the first one's on each side of ``drawn``."""
    first, second = features_of(one, one.ring == one_ring), features_of(two, two.ring == two_ring)
    # Thought slimmer, rounds that fit their bowls exactly are pairs as well.
    slim = Pairs.all_of(_slimmer(first), _slimmer(second))
    exact = Pairs(first, second, slim.one, slim.two)

    # Behind a face of an outer outline one may be without being in it; what lies so as drawn is no
    # end. A hole's faces all look inwards.
    if one_ring == 0 and two_ring == 0:
        counted = slim.gaps(guide.poses(np.array([drawn])))[0][0] > -DEEP
        slim, exact = slim.taken(counted), exact.taken(counted)

    def pressed(raw: Floats) -> Floats:
        """(N,) mm, the least gap of what faces, its rounds thought slimmer."""
        gap, margin = slim.gaps(guide.poses(raw))
        return np.asarray(np.where(margin >= -FACING, gap, np.inf).min(axis=1, initial=np.inf))

    reach = math.pi if guide.is_angular else 2 * (one.radius + two.radius)
    grid = drawn + reach * np.linspace(-1.0, 1.0, 2 * LOOKS + 1)
    if guide.curve is not None:
        reach = guide.curve.length
        grid = np.linspace(-0.2 * reach, 1.2 * reach, 2 * LOOKS + 1)
        if guide.curve.is_closed:
            grid = drawn + np.linspace(-0.5, 0.5, 2 * LOOKS + 1) * reach
    free = pressed(grid) > -DEEP
    if not free.any():
        return None, None
    # Drawn a little beyond an end it is still meant to be inside.
    middle = int(np.argmin(np.where(free, np.abs(grid - drawn), np.inf)))
    before = np.flatnonzero(~free[:middle])
    after = np.flatnonzero(~free[middle:])
    low = high = None
    if len(before):
        low = _met(guide, pressed, slim, exact, grid[before[-1] + 1], grid[before[-1]])
    if len(after):
        k = middle + int(after[0])
        high = _met(guide, pressed, slim, exact, grid[k - 1], grid[k])
    return low, high


def _met(
    guide: Guide,
    pressed: Callable[[Floats], Floats],
    slim: Pairs,
    exact: Pairs,
    free: float,
    beyond: float,
) -> float:
    """The value between a free one and one beyond at which the true outlines meet."""
    # Many places are as quick to look at as one.
    shares = np.linspace(0.0, 1.0, PARTS + 1)[1:-1]
    for _ in range(ROUNDS):
        looks = free + (beyond - free) * shares
        looks = looks[(looks != free) & (looks != beyond)]
        if not len(looks):
            break
        met = np.flatnonzero(pressed(looks) <= -DEEP)
        k = int(met[0]) if len(met) else len(looks)
        free, beyond = (
            float(looks[k - 1]) if k else free,
            float(looks[k]) if k < len(looks) else beyond,
        )
    gap, margin = slim.gaps(guide.poses(np.array([beyond])))
    pair = int(np.argmin(np.where(margin[0] >= -FACING, gap[0], np.inf)))
    alone = exact.taken(np.array([pair]))
    value, step = beyond, 1e-6 * (1e-3 if guide.is_angular else 1.0)
    for _ in range(4):
        here, after = alone.gaps(guide.poses(np.array([value, value + step])))[0][:, 0]
        slope = (after - here) / step
        if slope == 0.0 or abs(here / slope) > 1e-2:
            break
        value -= here / slope
    return float(value)


def _slimmer(features: Features) -> Features:
    is_round = (features.kind == Feature.ROUND) & (features.radius > 1e3 * SLIM)
    return replace(features, radius=features.radius - SLIM * is_round)


def _open_ends(guide: Guide, named: list[tuple[Named, Named]]) -> tuple[float | None, float | None]:
    """Values at which a fork, a rail or a curve ends without material."""
    if guide.curve is not None:
        if guide.curve.is_closed:
            return None, None
        return 0.0, guide.curve.length
    if not guide.spec.is_straight:
        return None, None
    low: list[float] = []
    high: list[float] = []
    for (p, a), (q, b) in named:
        if p.hole is not None or q.hole is not None:
            continue
        walls = _walls(a.region, edges_of(a.region, p), guide.first, guide.first[2])
        if guide.is_pin:
            if p.edges is not None and walls:
                low.append(max(wall[0] for wall in walls))
                high.append(min(wall[1] for wall in walls))
            continue
        turned = guide.second[2] - guide.twist
        faces = _walls(b.region, edges_of(b.region, q), guide.second, turned)
        if walls and faces:
            low.append(min(w[0] for w in walls) - max(f[1] for f in faces))
            high.append(max(w[1] for w in walls) - min(f[0] for f in faces))
    return max(low, default=None), min(high, default=None)


Spans = tuple[tuple[float, float], ...]
"""Pieces (begin, end) of a wall along the way, mm."""


def guiding_spans(
    joint: model.Joint,
    parts: tuple[SolidPart, SolidPart],
    heights: tuple[float, float],
    twist: float,
) -> tuple[tuple[Spans, ...], tuple[float, float]] | None:
    """The walls between which the second body of a slide is guided, and that body's two ends.

    Both along the way, mm; the ends as they are at the value (raw) 0. Each side's walls by
    itself. None where the joint names no straight walls on both sides.
    """
    first = parts[0].places[joint.first.place]
    second = parts[1].places[joint.second.place]
    sides: list[Spans] = []
    ends: list[float] = []
    for (p, a), (q, b) in _named_pairs(joint, parts, heights):
        faces = _walls(b.region, edges_of(b.region, q), second, second[2] - twist)
        if not faces:
            continue
        ends += [end for face in faces for end in face]
        u = np.array([math.cos(first[2]), math.sin(first[2])])
        rows = np.flatnonzero(edges_of(a.region, p) & ~a.region.edges.is_arc)
        across = (a.region.edges.start[rows] - first[:2]) @ np.array([-u[1], u[0]])
        chosen = np.zeros(len(a.region.ring), dtype=bool)
        middle = across.mean() if len(rows) else 0.0
        for side in (across > middle, across <= middle) if len(rows) else ():
            # The nearest of its side guide; what lies further off is the bottom of a crossing slot.
            off = np.where(side, np.abs(across - middle), np.inf)
            chosen[:] = False
            chosen[rows[off < off.min() + LEVEL]] = True
            spans = _walls(a.region, chosen, first, first[2])
            if spans:
                sides.append(tuple(sorted(spans)))
    return (tuple(sides), (min(ends), max(ends))) if sides and ends else None


def _walls(
    region: Region, chosen: np.ndarray, place: tuple[float, float, float], direction: float
) -> list[tuple[float, float]]:
    """Ways along a direction, from a place, that the chosen straight edges parallel to it take."""
    u = np.array([math.cos(direction), math.sin(direction)])
    rows = np.flatnonzero(chosen & ~region.edges.is_arc)
    found = []
    for row in rows:
        along = (np.stack([region.edges.start[row], region.edges.end[row]]) - place[:2]) @ u
        length = float(np.hypot(*(region.edges.end[row] - region.edges.start[row])))
        if abs(along[1] - along[0]) > (1.0 - PARALLEL) * length > 0.0:
            found.append((float(along.min()), float(along.max())))
    return found
