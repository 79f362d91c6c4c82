"""Where something first happens to what touches, along a followed path: certified.

Between two looks bodies move by no more than their bounded speeds allow, so a gap larger than
that cannot close unseen; smaller ones are looked at more closely. Method and proof:
docs/methods.md, "Contact".
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import relative_poses
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.contacts import Facing
from anakinema.motion.branch_path import BranchPath
from anakinema.motion.closing import Spread, closing, nearing
from anakinema.motion.dense import positions, solve
from anakinema.motion.speed_bounds import speed_bounds
from anakinema.wanted import still_wanted

LOOKS = 13
SPLIT = 5
MOST_SPLITS = 14
LOCATE_FROM = 2
"""Splits after which a sign change is located though others may hide before it."""
UNSEEN = 2.5e-4
"""mm; a stretch in which no gap can change by more is judged by its ends."""
SAMPLED = 5e-3
"""mm; so far bodies are seen to move between two looks where nothing bounds their speeds."""
SLIGHT = 5e-3
"""mm or rad; so far a margin or a rest may be overstepped and come back unseen."""
FLUSH = 1e-8
"""Share of the smaller body by which a gap must close before it counts: less is flush."""
LOOSE = 1e-7
"""mm or rad by which a margin may be short."""
ROUNDING = 1e-11
"""Share of the size that poses may be off."""
LOCATED = 1e-13
SHALLOW = 1e-5
"""Share of the smaller body that bodies are let overlap to see whether they do."""


@dataclass(frozen=True, slots=True)
class Pairing:
    """A pair of features of a facing."""

    facing: int
    pair: int


@dataclass(frozen=True, slots=True)
class Change:
    """What happens first at progress p: a pair touches, one ends its stretch, a joint rests."""

    p: float
    touched: Pairing | None = None
    ended: Pairing | None = None
    rested: int | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Watch:
    """What to look out for along a path.

    active : pairs in touch by the path's own conditions. rests : raw rest value and the side
    (+1, -1) from which it is approached, of joints that may come to rest. turns : the direction
    in which joints are pushed that stay where they are once that turns round.
    """

    mechanism: Mechanism
    facings: Sequence[Facing]
    active: tuple[Pairing, ...]
    rests: Mapping[int, tuple[float, float]]
    turns: Mapping[int, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, eq=False)
class _Looks:
    """What is seen at progress (N,): gaps and margins (N, P) of each facing, and what they can
    close by within reach (N,)."""

    p: Floats
    gaps: list[Floats]
    margins: list[Floats]
    rests: list[Floats]


def first_change(branch_path: BranchPath, watch: Watch, begin: float, end: float) -> Change | None:
    """The first change after ``begin`` and up to ``end`` of a trail, None if there is none.

    Breadth first: all stretches that leave room for a touch are looked at more closely at once.
    A sign change is located when its stretch is small or leaves no doubt; what lies behind the
    earliest that holds is looked at no more, what lies before it is.
    """
    search = _Search(branch_path, watch, begin)
    low, high = np.array([begin]), np.array([end])
    parts = LOOKS
    first: Change | None = None
    limit = math.inf
    for depth in range(MOST_SPLITS):
        still_wanted()
        crossings, (low, high) = search.divided(low, high, parts, first, limit)
        for crossing in sorted(crossings, key=lambda c: c.low):
            if crossing.low >= limit or not (crossing.sure or depth >= LOCATE_FROM):
                continue
            change = search.locate(crossing)
            if change is not None and change.p < limit:
                first, limit = change, change.p
        before = low < limit
        low, high = low[before], np.minimum(high[before], limit)
        if not len(low):
            break
        parts = SPLIT
    return first


@dataclass(slots=True)
class _Crossing:
    """A sign change between two looks; ``sure`` if nothing can hide before it in its stretch."""

    low: float
    high: float
    kind: str
    which: int
    pair: int
    sure: bool


class _Search:
    def __init__(self, branch_path: BranchPath, watch: Watch, begin: float) -> None:
        self.branch_path, self.watch, self.begin = branch_path, watch, begin
        self.size = watch.mechanism.size
        # Poses are as exact as the whole mechanism is large.
        self.flush = [max(FLUSH * facing.extent, ROUNDING * self.size) for facing in watch.facings]
        # Pairs looked at, by facing: all, until those that stay far apart are left out.
        self.rows = [np.arange(len(facing.pairs.one)) for facing in watch.facings]
        self.apart: list[np.ndarray] = []
        self._mark()

    def _mark(self) -> None:
        """Which of the pairs looked at are no neighbours of what is in touch."""
        self.pairs = [
            facing.pairs.taken(rows)
            for facing, rows in zip(self.watch.facings, self.rows, strict=True)
        ]
        near = [np.zeros(0, dtype=np.int64) for _ in self.rows]
        for pairing in self.watch.active:
            found = self.watch.facings[pairing.facing].neighbours(pairing.pair)
            near[pairing.facing] = np.append(near[pairing.facing], found)
        self.apart = [~np.isin(rows, out) for rows, out in zip(self.rows, near, strict=True)]
        self._own = [
            int(np.flatnonzero(self.rows[a.facing] == a.pair)[0]) for a in self.watch.active
        ]

    def _leave_out(self, at: Spread) -> None:
        """Look no more at pairs that stay apart all along, by the circles that hold them."""
        for f, facing in enumerate(self.watch.facings):
            a, b = facing.bodies
            reach = facing.pairs.reach(relative_poses(at.poses[:, a], at.poses[:, b]))
            clear = reach > (nearing(facing, at) * at.half)[:, None]
            stays = np.asarray(clear.all(axis=0))
            stays[[x.pair for x in self.watch.active if x.facing == f]] = False
            self.rows[f] = np.flatnonzero(~stays)
        self._mark()

    def look(self, p: Floats) -> _Looks:
        if self.watch.turns:
            at = solve(self.branch_path, p)
            return self._seen(p, at.poses, at.first)
        return self._seen(p, positions(self.branch_path, p))

    def _seen(self, p: Floats, poses: Floats, first: Floats | None = None) -> _Looks:
        gaps, margins = [], []
        for facing, pairs in zip(self.watch.facings, self.pairs, strict=True):
            a, b = facing.bodies
            gap, margin = pairs.gaps(relative_poses(poses[:, a], poses[:, b]))
            gaps.append(gap)
            margins.append(margin)
        values = self.watch.mechanism.values(poses) if self.watch.rests else None
        rests = [
            side * (values[:, joint] - rest) if values is not None else np.zeros(0)
            for joint, (rest, side) in self.watch.rests.items()
        ]
        if self.watch.turns and first is not None:
            still = np.zeros_like(first)
            _, rates, _ = self.watch.mechanism.values_and_rates(poses, first, still)
            rests += [side * rates[:, joint] for joint, side in self.watch.turns.items()]
        return _Looks(p, gaps, margins, rests)

    def divided(
        self, low: Floats, high: Floats, parts: int, first: Change | None, limit: float
    ) -> tuple[list[_Crossing], tuple[Floats, Floats]]:
        """Stretches (M,) cut into parts: what changes sign in them, and the parts that still
        leave room for a touch, (low, high).

        In a stretch that ends at the ``limit`` where ``first`` was located that one is no doubt.
        """
        share = np.linspace(0.0, 1.0, parts + 1)
        grid = low[:, None] + share * (high - low)[:, None]
        at = solve(self.branch_path, grid.ravel())
        half = np.repeat((high - low) / parts / 2, parts + 1)
        spread = Spread(
            at.poses, at.first, speed_bounds(self.branch_path.path.system, at, half), half
        )
        if parts == LOOKS:
            self._leave_out(spread)
        seen = self._seen(grid.ravel(), at.poses, at.first)
        at_limit = np.repeat(high == limit, parts + 1)
        doubtful, small, able = self._doubtful(seen, spread, first, at_limit)
        inner = doubtful.reshape(grid.shape)[:, :-1] | doubtful.reshape(grid.shape)[:, 1:]
        tiny = small.reshape(grid.shape)
        settled = (tiny[:, :-1] & tiny[:, 1:]) | self._hardly_moves(spread, grid.shape)
        inner &= ~settled
        rows, columns = np.nonzero(inner)
        crossings = []
        for k, kind, which, pair in self._crossings(seen, able):
            row, column = divmod(k, parts + 1)
            if column < parts:
                sure = not inner[row, column]
                ends = float(grid[row, column]), float(grid[row, column + 1])
                crossings.append(_Crossing(*ends, kind, which, pair, sure))
        return crossings, (grid[rows, columns], grid[rows, columns + 1])

    def _crossings(self, seen: _Looks, able: list[np.ndarray]) -> list[tuple[int, str, int, int]]:
        """(look before, what) for all that changes its sign between two looks.

        ``able`` (N, P) of each facing: whether a pair may face somewhere about a look.
        """
        out: list[tuple[int, str, int, int]] = []
        for f, gap in enumerate(seen.gaps):
            flush = self.flush[f]
            closes = (gap[:-1] > -flush) & (gap[1:] <= -flush)
            near = able[f][:-1] | able[f][1:]
            for k, pair in zip(*np.nonzero(closes & near & self.apart[f]), strict=True):
                out.append((int(k), "touch", f, int(pair)))
        for n, pairing in enumerate(self.watch.active):
            margin = seen.margins[pairing.facing][:, self._own[n]]
            for k in np.flatnonzero((margin[:-1] >= -LOOSE) & (margin[1:] < -LOOSE)):
                out.append((int(k), "margin", n, 0))
        for n, rest in enumerate(seen.rests):
            for k in np.flatnonzero((rest[:-1] >= 0) & (rest[1:] < 0)):
                out.append((int(k), "rest", n, 0))
        return out

    def _hardly_moves(self, at: Spread, shape: tuple[int, int]) -> np.ndarray:
        """(M, parts) stretches without a bound across which the bodies are seen to move by no
        more than a hair: next to a singular pose nothing better can be had."""
        unbounded = np.asarray(np.isnan(at.most).any(axis=(1, 2))).reshape(shape)
        moved = np.zeros((shape[0], shape[1] - 1))
        steps = np.abs(np.diff(at.poses.reshape(*shape, -1, 3), axis=1))
        for facing in self.watch.facings:
            for body, far in zip(facing.bodies, facing.far, strict=True):
                step = steps[:, :, body]
                moved = np.maximum(moved, step[..., 0] + step[..., 1] + far * step[..., 2])
        return np.asarray((moved <= SAMPLED) & (unbounded[:, :-1] | unbounded[:, 1:]))

    def _doubtful(
        self, seen: _Looks, at: Spread, first: Change | None, at_limit: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray, list[np.ndarray]]:
        """(N,) looks around which a gap may close, (N,) those where none can change by more than
        a hair, and of each facing (N, P) the pairs that may face about a look.

        A pair touches first where its gap changes sign while it faces. Where its gap cannot reach
        zero within the stretch, or it cannot come to face, it does not, whatever lies between.
        """
        diagnostic = np.zeros(len(seen.p), dtype=bool)
        # Where the path begins something may only just have come to face.
        later = seen.p > self.begin
        small = np.ones(len(seen.p), dtype=bool)
        able: list[np.ndarray] = []
        for f, facing in enumerate(self.watch.facings):
            change, turning = closing(facing, self.pairs[f], at)
            with np.errstate(invalid="ignore"):
                change, turning = change * at.half[:, None], turning * at.half[:, None]
            gap = np.abs(seen.gaps[f])
            able.append(~(seen.margins[f] < -LOOSE - turning))
            open_ = able[f] & ~(gap > change) & (gap > self.flush[f]) & self.apart[f]
            if first is not None and first.touched is not None and first.touched.facing == f:
                open_ &= ~np.outer(at_limit, self.rows[f] == first.touched.pair)
            for n, pairing in enumerate(self.watch.active):
                if pairing.facing != f:
                    continue
                # Whether what is in touch may end its stretch and begin it again unseen.
                own = self._own[n]
                ends = ~(np.abs(seen.margins[f][:, own]) > turning[:, own]) & later
                ends &= ~(at_limit & (first is not None and first.ended == pairing))
                diagnostic |= ends
                small &= (turning[:, own] <= SLIGHT) | ~ends
            diagnostic |= open_.any(axis=1)
            small &= (change <= UNSEEN).all(axis=1, where=open_)
        for n, (joint, most) in enumerate(self._rest_rates(at)):
            meets = ~(np.abs(seen.rests[n]) > most * at.half) & later
            meets &= ~(at_limit & (first is not None and first.rested == joint))
            diagnostic |= meets
            small &= (most * at.half <= SLIGHT) | ~meets
        return diagnostic, small, able

    def _rest_rates(self, at: Spread) -> list[tuple[int, Floats]]:
        """Joints that may come to rest, and bounds (N,) on the rates of their values."""
        table = self.watch.mechanism.table
        out = []
        for joint in self.watch.rests:
            one, two = int(table.first[joint]), int(table.second[joint])
            turn = at.most[:, one, 2] + at.most[:, two, 2]
            if self.watch.mechanism.angular[joint]:
                out.append((joint, turn))
                continue
            apart = np.hypot(*(at.poses[:, two, :2] - at.poses[:, one, :2]).T)
            arms = float(np.hypot(*table.first_point[joint]) + np.hypot(*table.second_point[joint]))
            drift = at.most[:, one, 0] + at.most[:, one, 1]
            drift = drift + at.most[:, two, 0] + at.most[:, two, 1]
            out.append((joint, drift + turn * (apart + at.half * drift + 2 * arms)))
        return out

    def locate(self, crossing: _Crossing) -> Change | None:
        """The change, located; None if the pair does not face there after all."""
        kind, n, pair = crossing.kind, crossing.which, crossing.pair
        low, high = crossing.low, crossing.high

        pairing = None
        if kind == "touch":
            pairing = Pairing(n, int(self.rows[n][pair]))
        elif kind == "margin":
            pairing = self.watch.active[n]
        alone = None
        if pairing is not None:
            facing = self.watch.facings[pairing.facing]
            alone = facing.pairs.taken(np.array([pairing.pair]))

        def value(p: float) -> float:
            if pairing is None or alone is None:
                return float(self.look(np.array([p])).rests[n][0])
            poses = positions(self.branch_path, np.array([p]))
            a, b = self.watch.facings[pairing.facing].bodies
            gap, margin = alone.gaps(relative_poses(poses[:, a], poses[:, b]))
            return float(gap[0, 0] if kind == "touch" else margin[0, 0])

        p = _root(value, low, high)
        if pairing is not None and kind == "touch":
            return Change(p, touched=pairing) if self._enters(p, high, pairing) else None
        if pairing is not None:
            return Change(p, ended=pairing)
        return Change(p, rested=[*self.watch.rests, *self.watch.turns][n])

    def _enters(self, p: float, high: float, touched: Pairing) -> bool:
        """Whether bodies whose pair closes at p would overlap a little later.

        At a sharp corner a point can go behind a face's line and yet pass beside the body.
        """
        chosen = self.watch.facings[touched.facing]
        a, b = chosen.bodies
        shallow = SHALLOW * chosen.extent
        high = max(high, p + 1e-8)
        for _ in range(60):
            poses = positions(self.branch_path, np.array([p, high]))
            seen = relative_poses(poses[:, a], poses[:, b])
            gaps, margins = chosen.pairs.taken(np.array([touched.pair])).gaps(seen)
            if margins[0, 0] < -1e-6:
                return False
            if gaps[1, 0] > -shallow or high - p < 1e-9:
                return chosen.overlaps(touched.pair, seen[1], 0.05 * abs(float(gaps[1, 0])))
            high = p + (high - p) * max(0.02, min(0.7, 0.7 * shallow / -float(gaps[1, 0])))
        return False


def _root(value: Callable[[float], float], low: float, high: float) -> float:
    """Where a value that is above zero at ``low`` and below at ``high`` is zero (Illinois)."""
    a, b = value(low), value(high)
    if a <= 0.0:
        return low
    side = 0
    for _ in range(80):
        if high - low < LOCATED or a == b:
            break
        p = (low * b - high * a) / (b - a)
        p = min(max(p, low), high)
        v = value(p)
        if v == 0.0:
            return p
        if v > 0.0:
            if p - low < LOCATED and side == 1:
                return p
            low, a = p, v
            if side == 1:
                b /= 2
            side = 1
        else:
            if high - p < LOCATED and side == -1:
                return p
            high, b = p, v
            if side == -1:
                a /= 2
            side = -1
    return high if abs(b) < abs(a) else low
