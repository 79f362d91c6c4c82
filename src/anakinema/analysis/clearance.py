"""Certified clearance: the smallest gap over the whole motion, not only at its samples.

Over a stretch of progress two bodies approach by no more than the paths their points can travel,
and speeds are bounded over the whole stretch (`anakinema.motion.motion.speed_bounds`). A
stretch whose gap exceeds that path is safe; others are split until the gap is known within the
tolerance. Where no speed bound exists (next to a singular pose) the answer is only sampled, and
says so. Proof in docs/methods.md, "Certified clearance".
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely import affinity

from anakinema.analysis.comparisons import Comparison
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Distances, Question, distances, relative_poses, transform
from anakinema.geometry.region import Region
from anakinema.motion.motion import Motion, States

TOLERANCE = 0.005
"""mm; default width of a certified gap."""
SPLIT = 6
MOST_ROUNDS = 14
MOST_CELLS = 40_000
COARSE_STRIDE = 16
TINY = 2.5e-5
"""Progress; stretches without a speed bound are not split further."""


@dataclass(frozen=True, slots=True)
class Gap:
    """The smallest gap of a set of body pairs over the motion.

    It lies in [least, most] mm; below zero it is an overlap, and the depth is sampled. ``most``
    was seen at ``progress`` between the two points (mm, in the plane). ``below`` are stretches
    of progress under the threshold asked for. ``sampled`` are stretches without a bound.
    """

    first_body: int
    second_body: int
    least: float
    most: float
    progress: float
    first_point: tuple[float, float]
    second_point: tuple[float, float]
    below: tuple[tuple[float, float], ...]
    sampled: tuple[tuple[float, float], ...]
    evaluations: int

    @property
    def is_certified(self) -> bool:
        """Whether the bound holds over every stretch of the motion."""
        return not self.sampled

    @property
    def overlaps(self) -> bool:
        """Whether the two bodies share space somewhere."""
        return self.most <= 0.0


@dataclass(eq=False)
class _Cells:
    """Stretches of progress still of interest for one comparison each."""

    which: np.ndarray
    progress: Floats
    half: Floats
    distance: Floats
    low: Floats


def smallest_gap(
    motion: Motion,
    items: list[Comparison],
    *,
    threshold: float | None = None,
    tolerance: float = TOLERANCE,
    exact: bool = True,
    check: Callable[[], None] = lambda: None,
) -> Gap | None:
    """The smallest gap among comparisons over the motion; None if there is nothing to compare.

    ``exact`` False looks at the samples only (coarse, nothing certified). ``threshold`` mm: also
    locate the stretches below it.
    """
    if not items:
        return None
    search = _Search(motion, items, threshold, tolerance, check)
    search.sample()
    if exact:
        search.refine()
    return search.result(exact)


class _Search:
    def __init__(
        self,
        motion: Motion,
        items: list[Comparison],
        threshold: float | None,
        tolerance: float,
        check: Callable[[], None],
    ) -> None:
        self.motion, self.items = motion, items
        self.threshold, self.tolerance, self.check = threshold, tolerance, check
        self.best = np.inf
        self.best_at = (0, float(motion.progress[0]))
        self.evaluations = 0
        self.seen_progress: list[Floats] = []
        self.seen_distance: list[Floats] = []
        self.seen_which: list[np.ndarray] = []
        self.cells: _Cells | None = None
        self.sampled: list[tuple[float, float]] = []
        self.least = np.inf

    def measure(self, asked: list[tuple[int, Floats, Floats]]) -> list[Distances]:
        """Distances for (comparison, poses (N, B, 3), progress (N,)); remembers the smallest."""
        answers = distances([question(self.items[which], poses) for which, poses, _ in asked])
        for (which, _, progress), found in zip(asked, answers, strict=True):
            if not len(progress):
                continue
            self.evaluations += len(progress)
            k = int(np.argmin(found.distance))
            if found.distance[k] < self.best:
                self.best, self.best_at = float(found.distance[k]), (which, float(progress[k]))
            self.seen_which.append(np.full(len(progress), which))
            self.seen_progress.append(progress)
            self.seen_distance.append(found.distance)
        return answers

    def wanted(self) -> float:
        """Distances below this matter: the best so far, and the threshold's stretches."""
        return max(self.best, self.threshold if self.threshold is not None else -np.inf)

    def sample(self) -> None:
        """Measure the samples that bounding circles and motion bounds cannot rule out."""
        motion = self.motion
        progress, states, reach = motion.progress, motion.samples, motion.reach
        poses, count = motion.poses, len(motion.progress)
        coarse = np.unique(np.append(np.arange(0, count, COARSE_STRIDE), count - 1))
        everything = range(len(self.items))
        first = self.measure([(which, poses[coarse], progress[coarse]) for which in everything])
        self.check()
        moves = [_Approach.bound(item, states, reach) for item in self.items]
        bounds = []
        for which in everything:
            # Between samples the gap falls by no more than the path, summed along the way.
            speed, known = moves[which].speed, first[which].distance
            path = np.append(0.0, np.cumsum(np.diff(progress) * np.maximum(speed[1:], speed[:-1])))
            path = np.where(np.isnan(path), np.inf, path)
            before = np.searchsorted(coarse, np.arange(count), side="right") - 1
            after = np.minimum(before + 1, len(coarse) - 1)
            with np.errstate(invalid="ignore"):
                from_before = known[before] - (path - path[coarse[before]])
                from_after = known[after] - (path[coarse[after]] - path)
                circles = _circle_gap(self.items[which], poses)
                bound = np.fmax(circles, np.fmax(from_before, from_after)) - speed * reach
            bounds.append(np.where(np.isnan(speed), -np.inf, bound))
        near = [np.setdiff1d(np.flatnonzero(b < self.wanted()), coarse) for b in bounds]
        self.check()
        second = self.measure([(which, poses[near[which]], progress[near[which]]) for which in everything])
        parts: list[_Cells] = []
        for which in everything:
            for rows, found in ((coarse, first[which]), (near[which], second[which])):
                low = moves[which].taken(rows).low(found, poses[rows], reach[rows])
                parts.append(
                    _Cells(np.full(len(rows), which), progress[rows], reach[rows], found.distance, low)
                )
            skipped = np.ones(count, dtype=bool)
            skipped[coarse], skipped[near[which]] = False, False
            if skipped.any():
                self.least = min(self.least, float(bounds[which][skipped].min()))
        self.cells = _Cells(
            *(np.concatenate([getattr(part, name) for part in parts])
              for name in ("which", "progress", "half", "distance", "low"))
        )  # fmt: skip

    def refine(self) -> None:
        """Split the stretches that could hide a smaller gap, until none can."""
        motion = self.motion
        for _ in range(MOST_ROUNDS):
            self.check()
            cells = self.cells
            assert cells is not None
            split = self._undecided(cells)
            self._settle(cells, ~split)
            if not split.any():
                return
            rows = np.flatnonzero(split)
            if len(rows) * SPLIT > MOST_CELLS:
                break
            offsets = (2 * np.arange(SPLIT) + 1) / SPLIT - 1
            half = np.repeat(cells.half[rows] / SPLIT, SPLIT)
            progress = (cells.progress[rows, None] + cells.half[rows, None] * offsets).ravel()
            which = np.repeat(cells.which[rows], SPLIT)
            progress = np.clip(progress, motion.progress[0], motion.last)
            unique, back = np.unique(progress, return_inverse=True)
            widest = np.zeros(len(unique))
            np.maximum.at(widest, back, half)
            states = motion.at(unique, widest)
            distance, low = np.empty(len(progress)), np.empty(len(progress))
            groups = [(int(item), np.flatnonzero(which == item)) for item in np.unique(which)]
            answers = self.measure(
                [(item, states.poses[back[rows]], progress[rows]) for item, rows in groups]
            )
            for (item, rows), found in zip(groups, answers, strict=True):
                here = states.taken(back[rows])
                moves = _Approach.bound(self.items[item], here, half[rows])
                distance[rows] = found.distance
                low[rows] = moves.low(found, here.poses, half[rows])
            self.cells = _Cells(which, progress, half, distance, low)
        left = self.cells
        assert left is not None
        self._settle(left, np.ones(len(left.which), dtype=bool))

    def _settle(self, cells: _Cells, done: np.ndarray) -> None:
        """Take the bounds of finished stretches; those without one are only sampled."""
        bounded = done & ~np.isnan(cells.low)
        if bounded.any():
            self.least = min(self.least, float(cells.low[bounded].min()))
        rows = done & np.isnan(cells.low)
        self.sampled += _spans(cells.progress[rows], cells.half[rows])

    def _undecided(self, cells: _Cells) -> np.ndarray:
        low, unbounded = cells.low, np.isnan(cells.low)
        goal = max(self.best, 0.0) - self.tolerance
        undecided = (low < goal) & (cells.distance > 0)
        if self.best <= 0.0:
            # Contact is certain; what remains is to find where.
            undecided = (low <= 0.0) & (cells.distance > 0) & (cells.half > 1e-4)
        if self.threshold is not None:
            straddles = (low < self.threshold) & (cells.distance > self.threshold)
            undecided |= straddles & (cells.half > 1e-4)
        # Without a bound a stretch is split until it is tiny.
        return np.asarray((undecided & ~unbounded) | (unbounded & (cells.half > TINY)))

    def result(self, exact: bool) -> Gap:
        motion = self.motion
        which, progress = self.best_at
        item = self.items[which]
        at = motion.at(np.array([progress]))
        found = measured(item, at.poses)
        frame = at.poses[:, item.first_body]
        most = self.best
        if most <= 0.0:
            most = -_depth(item, at.poses[0])
        first = transform(found.first_point, frame)[0, 0]
        second = transform(found.second_point, frame)[0, 0]
        least = min(self.least, self.best) if exact else -np.inf
        if most <= 0.0:
            least = most
        return Gap(
            item.first_body, item.second_body, least, most, progress,
            (float(first[0]), float(first[1])), (float(second[0]), float(second[1])),
            self._stretches() if exact else (),
            _joined_spans(self.sampled) if exact else ((float(motion.progress[0]), motion.last),),
            self.evaluations,
        )  # fmt: skip

    def _stretches(self) -> tuple[tuple[float, float], ...]:
        """Where the gap is below the threshold, ends located by re-solving."""
        if self.threshold is None:
            return ()
        which = np.concatenate(self.seen_which)
        progress = np.concatenate(self.seen_progress)
        distance = np.concatenate(self.seen_distance)
        threshold = max(self.threshold, 0.0)
        below = distance < threshold if threshold > 0 else distance <= 0.0
        spans: list[tuple[float, float]] = []
        for item in np.unique(which[below]):
            rows = which == item
            order = np.argsort(progress[rows])
            p, low = progress[rows][order], below[rows][order]
            change = np.flatnonzero(low[1:] != low[:-1])
            ends = self._ends(int(item), p[change], p[change + 1], low[change], threshold)
            bounds = [p[0]] if low[0] else []
            bounds += ends.tolist()
            bounds += [p[-1]] if low[-1] else []
            spans += list(zip(bounds[::2], bounds[1::2], strict=True))
        return _joined_spans(spans)

    def _ends(
        self, which: int, a: Floats, b: Floats, starts_below: npt.NDArray[np.bool_], threshold: float
    ) -> Floats:
        """Where the gap passes the threshold between ``a`` and ``b`` (N,), by re-solving.

        Regula falsi (Illinois variant) where the gap is known on both sides, halving where one
        side is an overlap, whose depth says nothing about where it began.
        """
        if not len(a):
            return a
        item = self.items[which]
        a, b = a.copy(), b.copy()

        def excess(p: Floats) -> Floats:
            found = measured(item, self.motion.poses_at(p)).distance
            return np.where(found > 0.0, found - threshold, -np.inf)

        value_a, value_b = excess(a), excess(b)
        for _ in range(50):
            middle = (a + b) / 2
            with np.errstate(invalid="ignore"):
                falsi = (a * value_b - b * value_a) / (value_b - value_a)
            guess = np.where(np.isfinite(falsi) & (falsi > a) & (falsi < b), falsi, middle)
            value = excess(guess)
            same = (value < 0.0) == starts_below
            value_b = np.where(same, value_b / 2, value)
            value_a = np.where(same, value, value_a / 2)
            a, b = np.where(same, guess, a), np.where(same, b, guess)
            if float(np.minimum(b - a, np.abs(value)).max()) < 1e-9:
                break
        return np.asarray(guess)


def _spans(progress: Floats, half: Floats) -> list[tuple[float, float]]:
    return [(float(p - h), float(p + h)) for p, h in zip(progress, half, strict=True)]


def _joined_spans(spans: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    out: list[tuple[float, float]] = []
    for low, high in sorted(spans):
        if out and low <= out[-1][1] + 1e-9:
            out[-1] = (out[-1][0], max(out[-1][1], high))
        else:
            out.append((low, high))
    return tuple(out)


def question(item: Comparison, poses: Floats) -> Question:
    """A comparison at poses (N, B, 3)."""
    relative = relative_poses(poses[:, item.first_body], poses[:, item.second_body])
    return Question(
        item.first.region, item.second.region, relative, item.compared, not item.enclosed
    )


def measured(item: Comparison, poses: Floats) -> Distances:
    """Distances of a comparison at poses (N, B, 3)."""
    return distances([question(item, poses)])[0]


def _circle_gap(item: Comparison, poses: Floats) -> Floats:
    """(N,) mm, lower bound of the gap from the bounding circles of both slabs."""
    first, second = item.first.region, item.second.region
    a = transform(first.centre[None], poses[:, item.first_body])[:, 0]
    b = transform(second.centre[None], poses[:, item.second_body])[:, 0]
    return np.asarray(np.hypot(*(a - b).T) - first.radius - second.radius)


@dataclass(frozen=True, slots=True, eq=False)
class _Approach:
    """How fast the two slabs of a comparison can approach around N poses.

    apart (N, 2): rate of the second slab's centre less the first's; slack (N,): how much any
    rate can exceed that, rims included; speed (N,): bound whatever the direction; all mm per
    unit of progress over the whole stretch, NaN where unbounded.
    """

    item: Comparison
    apart: Floats
    slack: Floats
    speed: Floats

    @staticmethod
    def bound(item: Comparison, states: States, reach: Floats) -> _Approach:
        """The speed of any point of a slab is at most that of the slab's centre plus spin times
        bounding radius, both bounded over the whole stretch."""
        count = len(reach)
        slack, speed, apart = np.zeros(count), np.zeros(count), np.zeros((count, 2))
        for sign, body, slab in (
            (-1.0, item.first_body, item.first), (1.0, item.second_body, item.second)
        ):  # fmt: skip
            region = slab.region
            v, most = states.first[:, body], states.speed_most[:, body]
            angle = states.poses[:, body, 2]
            c, s = np.cos(angle), np.sin(angle)
            arm_x = c * region.centre[0] - s * region.centre[1]
            arm_y = s * region.centre[0] + c * region.centre[1]
            arm = float(np.hypot(*region.centre))
            centre = np.stack([v[:, 0] - v[:, 2] * arm_y, v[:, 1] + v[:, 2] * arm_x], axis=1)
            more = np.maximum(most - np.abs(v), 0.0)
            extra = np.hypot(more[:, 0], more[:, 1])
            extra = extra + arm * (more[:, 2] + reach * most[:, 2] ** 2)
            extra = extra + most[:, 2] * region.radius
            apart += sign * centre
            slack += extra
            speed += np.hypot(centre[:, 0], centre[:, 1]) + extra
        return _Approach(item, apart, slack, np.minimum(speed, np.hypot(*apart.T) + slack))

    def taken(self, rows: npt.NDArray[np.int64]) -> _Approach:
        """The same for some of the poses."""
        return _Approach(self.item, self.apart[rows], self.slack[rows], self.speed[rows])

    def low(self, found: Distances, poses: Floats, reach: Floats) -> Floats:
        """(N,) mm: the gap stays above this within ``reach`` (N,) of each pose; NaN if unknown.

        The better of two bounds: the gap less the path, or the width of the strip between the
        two slabs at right angles to the nearest points, less the path across that strip.
        """
        general = found.distance - self.speed * reach
        first, second = poses[:, self.item.first_body], poses[:, self.item.second_body]
        inside = found.second_point - found.first_point
        length = np.maximum(found.distance, 1e-12)[:, None]
        c, s = np.cos(first[:, 2]), np.sin(first[:, 2])
        x, y = (inside / length).T
        normal = np.stack([c * x - s * y, s * x + c * y], axis=1)
        strip = -_support(self.item.second.region, second, -normal)
        strip = strip - _support(self.item.first.region, first, normal)
        across = np.abs(np.sum(normal * self.apart, axis=1)) + self.slack
        with np.errstate(invalid="ignore"):
            return np.where(found.distance > 0, np.fmax(general, strip - across * reach), general)


def _support(region: Region, poses: Floats, direction: Floats) -> Floats:
    """(N,) how far a region reaches along directions (N, 2), never too little."""
    edges = region.edges
    ends = transform(edges.start, poses)
    centres = transform(edges.centre, poses)
    far = np.einsum("nvk,nk->nv", ends, direction)
    rims = np.einsum("nvk,nk->nv", centres, direction) + edges.radius
    return np.asarray(np.maximum(far, np.where(edges.is_arc, rims, far)).max(axis=1))


def _depth(item: Comparison, poses: Floats) -> float:
    """mm one slab reaches into the other at poses (B, 3), sampled on flattened outlines."""
    relative = relative_poses(poses[None, item.first_body], poses[None, item.second_body])[0]
    a = item.first.region.polygon
    b = affinity.translate(
        affinity.rotate(item.second.region.polygon, relative[2], origin=(0, 0), use_radians=True),
        relative[0],
        relative[1],
    )
    if item.enclosed:
        return 0.0
    shared = shapely.intersection(a, b)
    if shared.is_empty or shared.area == 0.0:
        return 0.0
    depth = 0.0
    for polygon, other in ((a, b), (b, a)):
        points = shapely.points(shapely.get_coordinates(polygon))
        inside = points[shapely.contains_properly(other, points)]
        if len(inside):
            depth = max(depth, float(shapely.distance(inside, other.boundary).max()))
    if depth == 0.0:
        box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shared))
        if len(box) >= 3:
            depth = float(min(np.hypot(*(box[1] - box[0])), np.hypot(*(box[2] - box[1]))))
    return depth


def gap_curve(poses: Floats, items: list[Comparison]) -> Floats:
    """(N,) mm, smallest gap of some comparisons at each of the poses (N, B, 3)."""
    answers = distances([question(item, poses) for item in items])
    return np.asarray(np.min([found.distance for found in answers], axis=0))
