"""Drag to try: a grabbed body follows the pointer through the whole mechanism.

Coordinates are the values of joints along a spanning tree (angles, slides, and the place of a
root that hangs on nothing), so that a long chain has few unknowns and its joints cannot open.
Loops and slots are conditions on them. Each step closes the conditions, then moves the grabbed
point in what freedom they leave, with least weighted motion (projected, damped Gauss-Newton;
docs/methods.md, "Drag"). Joint limits are active sets: a value that would pass its limit is
held there and the step is made anew.

One long class: tree, cut joints and limits work on the same arrays, laid out once for a drag.
"""

from __future__ import annotations

import math
from collections import deque
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from anakinema.document.kinds import spec_of
from anakinema.geometry.complexes import Complexes
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.conditions import Between, condition
from anakinema.mechanism.fields import Rod
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.kernels import Kernel, rows_of, value_kernel
from anakinema.mechanism.touch import with_touches
from anakinema.motion.followed_program import turns_shown

Mask = npt.NDArray[np.bool_]
Numbers = TypeVar("Numbers", npt.NDArray[np.float64], npt.NDArray[np.complex128])
MOST_ROUNDS = 20
MOST_LIMITS = 6
CLOSED = 1e-10
"""Share of the size that conditions are closed to."""
NEAR = 1e-6
"""Share of the size that the pointer is followed to."""
REPEATED = 1e-6
"""Singular values below this share of the largest belong to repeated conditions."""
LEAST_SHARE = 1e-3
"""A step of less than this share that still does not help ends the pull."""
BEND = 0.01
"""rad that links in one line are bent by, to and fro, so that a push along them is felt."""
BEND_AGAIN = 0.1
"""Share of the size that the pointer must move before that is tried again in vain."""
LEAP = 0.35
"""rad (or share of the size) that one round may move a coordinate."""


@dataclass(frozen=True, slots=True, eq=False)
class Pulled:
    """Poses (B, 3) after a pull, how far the point stays from the pointer (mm), and the joints
    whose limits hold it back."""

    poses: Floats
    away: float
    held_by: tuple[int, ...]


@dataclass(frozen=True, slots=True, eq=False)
class _Standing:
    """The tree at coordinates ``now`` (T,): poses (B, 3), and of every coordinate the point that
    it turns about and the direction that it moves along (T,), as complex numbers."""

    now: Floats
    poses: Floats
    pivots: Complexes
    axes: Complexes


def _jumps(parent: Indices) -> list[Indices]:
    """(B + 1,) each: of every body the one above it, then the second, the fourth and so on above
    it, B where there is none."""
    count = len(parent)
    above = np.append(np.where(parent < 0, count, parent), count)
    out = [above]
    while (out[-1] < count).any():
        out.append(out[-1][out[-1]])
    return out


class Drag:
    """One gesture: made when a body is grabbed, asked at every move of the pointer."""

    def __init__(
        self, mechanism: Mechanism, poses: Floats, held: frozenset[int] = frozenset()
    ) -> None:
        self.mechanism = mechanism
        self._table = with_touches(mechanism.table, mechanism.runs)
        self._still = mechanism.fixed.copy()
        self._still[list(held)] = True
        self._kinds = [joint.kind for joint in mechanism.resolved.document.joints]
        self._size = mechanism.size
        self._shift = turns_shown(mechanism, mechanism.resolved.program, mechanism.values(poses))
        self._limited = [
            (joint, bound, sign)
            for joint, bounds in enumerate(mechanism.resolved.joints)
            for bound, sign in ((bounds.least, -1.0), (bounds.greatest, 1.0))
            if bound is not None
        ]
        self._stiff_at = (math.inf, math.inf)
        self._grow_tree(poses)

    # The tree ------------------------------------------------------------------------------

    def _grow_tree(self, poses: Floats) -> None:
        """Hang every body on one nearer to the frame, breadth first.

        Bodies that nothing holds hang on a root of their own that is free to move. What is
        stored of each body: its parent, the joint between, and the index of its coordinate.
        """
        table = self.mechanism.table
        count = len(self._still)
        neighbours: list[list[tuple[int, int]]] = [[] for _ in range(count)]
        for joint, (a, b) in enumerate(
            zip(table.first.tolist(), table.second.tolist(), strict=True)
        ):
            if spec_of(self._kinds[joint]).is_simple:
                neighbours[a].append((joint, b))
                neighbours[b].append((joint, a))
        parent, by, order = [-1] * count, [-1] * count, []
        seen = self._still.copy()
        queue = deque(int(b) for b in np.flatnonzero(self._still))
        for root in (-1, *np.flatnonzero(~self._still).tolist()):
            if root >= 0 and not seen[root]:
                seen[root] = True
                order.append(root)
                queue.append(root)
            while queue:
                body = queue.popleft()
                for joint, other in neighbours[body]:
                    if not seen[other]:
                        seen[other] = True
                        parent[other], by[other] = body, joint
                        order.append(other)
                        queue.append(other)
        self._lay_out(parent, by, order, poses)
        moving, used = ~self._still, set(by)
        self._cut = [
            joint
            for joint in range(len(self._kinds))
            if joint not in used and (moving[table.first[joint]] or moving[table.second[joint]])
        ]

    def _lay_out(self, parent: list[int], by: list[int], order: list[int], poses: Floats) -> None:
        """The tree as arrays, one entry a body; what stands still has zeros."""
        table, count = self.mechanism.table, len(parent)
        self._parent = np.array([p if p >= 0 else b for b, p in enumerate(parent)])
        self._own, self._other = np.zeros(count, complex), np.zeros(count, complex)
        self._axis, self._across = np.ones(count, complex), np.zeros(count)
        self._sign = np.zeros(count)
        self._carrier = np.arange(count)
        turns: list[tuple[int, int]] = []
        slides: list[tuple[int, int]] = []
        roots: list[tuple[int, int]] = []
        total = 0
        for body in order:
            joint, above = by[body], parent[body]
            if joint < 0:
                roots.append((body, total))
                total += 3
                continue
            carries = int(table.first[joint]) == above
            first, second = complex(*table.first_point[joint]), complex(*table.second_point[joint])
            self._other[body], self._own[body] = (first, second) if carries else (second, first)
            spec = spec_of(self._kinds[joint])
            if spec.is_straight:
                self._axis[body] = np.exp(1j * table.first_angle[joint])
                self._across[body] = self._target(joint, Kernel.ACROSS)
                self._sign[body] = 1.0 if carries else -1.0
                self._carrier[body] = above if carries else body
                slides.append((body, total))
            elif spec.moves:
                turns.append((body, total))
            else:
                continue
            total += 1
        self._coordinates = total
        self._above = _jumps(np.array(parent))
        self._moved_by: list[tuple[int, ...]] = [()] * count
        for body, first in (*turns, *slides):
            self._moved_by[body] = (first,)
        for body, first in roots:
            self._moved_by[body] = (first, first + 1, first + 2)
        self._paths: dict[int, tuple[Mask, Floats]] = {}
        pairs = (np.array(kind, dtype=np.int64).reshape(-1, 2) for kind in (turns, slides, roots))
        (self._turn_body, self._turn), (self._slide_body, self._slide), (self._root, self._free) = (
            pair.T for pair in pairs
        )
        self._turns = np.zeros(total, dtype=bool)
        self._turns[self._turn] = self._turns[self._free + 2] = True
        self._weight = np.ones(total)
        self._weight[self._turn] = 1.0 / self._size**2
        # A part that hangs on nothing is carried along rather than turned.
        self._weight[self._free + 2] = 0.02 / self._size**2
        self._loose = np.array([b for b in range(count) if by[b] < 0], dtype=np.int64)
        self._carried = np.zeros(total, dtype=complex)
        self._carried[self._free], self._carried[self._free + 1] = 1.0, 1j
        self._begin(poses)

    def _begin(self, poses: Floats) -> None:
        """Coordinates are counted from these poses; slides from where they stand."""
        self._base = poses.copy()
        places = poses[:, 0] + 1j * poses[:, 1]
        turned = np.exp(1j * poses[:, 2])
        one = places[self._parent] + turned[self._parent] * self._other
        apart = places + turned * self._own - one
        along = turned[self._carrier] * self._axis
        self._slid = self._sign * (along.conj() * apart).real
        self._at = self._standing(np.zeros(self._coordinates))

    def _target(self, joint: int, kernel: Kernel) -> float:
        m = self.mechanism
        rows = np.flatnonzero((m.row_joint == joint) & (m.row_kernel == int(kernel)))
        return float(m.row_target[rows[0]]) if len(rows) else 0.0

    # One pull ------------------------------------------------------------------------------

    def pull(self, body: int, point: tuple[float, float], target: tuple[float, float]) -> Pulled:
        """Bring a point of a body (mm, in its own frame) as near to a target as it can come.

        Continues from the pulls before. A body that stands still is not moved.
        """
        held: dict[int, float] = {}
        if self._path(body)[0].any():
            for _ in range(MOST_LIMITS):
                found = self._moved(body, point, target, held)
                if found is None:
                    break
                beyond = self._beyond(found.poses)
                if not beyond.keys() - held.keys():
                    self._at = found
                    break
                held |= beyond
        poses = self._at.poses
        x, y = carried(poses[body], point)
        return Pulled(poses, math.hypot(x - target[0], y - target[1]), tuple(sorted(held)))

    def _beyond(self, poses: Floats) -> dict[int, float]:
        """Joints whose value lies outside its limits, and the raw value they are held at."""
        if not self._limited:
            return {}
        values = self.mechanism.values(poses) + self._shift
        out: dict[int, float] = {}
        for joint, bound, sign in self._limited:
            tolerance = 1e-9 * (1.0 if self.mechanism.angular[joint] else self._size)
            if sign * (values[joint] - bound) > tolerance:
                out[joint] = bound - float(self._shift[joint])
        return out

    def _moved(
        self,
        body: int,
        point: tuple[float, float],
        target: tuple[float, float],
        held: dict[int, float],
    ) -> _Standing | None:
        """The tree with the point brought near; None if the conditions cannot be closed."""
        at = self._closed(self._at, held)
        if at is None:
            return None
        before = math.hypot(*self._away(at.poses[body], point, target))
        at = self._followed(at, body, point, target, held)
        left = math.hypot(*self._away(at.poses[body], point, target))
        if left < 0.9 * before or left < NEAR * self._size:
            return at
        return self._bent(at, body, point, target, held, left)

    def _bent(
        self,
        at: _Standing,
        body: int,
        point: tuple[float, float],
        target: tuple[float, float],
        held: dict[int, float],
        left: float,
    ) -> _Standing:
        """Links in one line, pushed along it, give way once they are bent a little: to and fro.

        Where that is of no use, it is not tried again for a pointer that has hardly moved.
        """
        if math.dist(target, self._stiff_at) < BEND_AGAIN * self._size:
            return at
        turns = np.flatnonzero(self._path(body)[1])
        bend = np.zeros(self._coordinates)
        bend[turns] = BEND * (-1.0) ** np.arange(len(turns))
        bent = self._closed(self._standing(at.now + bend), held)
        if bent is not None:
            bent = self._followed(bent, body, point, target, held)
            if math.hypot(*self._away(bent.poses[body], point, target)) < 0.9 * left:
                return bent
        self._stiff_at = target
        return at

    def _followed(
        self,
        at: _Standing,
        body: int,
        point: tuple[float, float],
        target: tuple[float, float],
        held: dict[int, float],
    ) -> _Standing:
        """The tree with the point brought near, step by step."""
        away, share = self._away(at.poses[body], point, target), 1.0
        for _ in range(MOST_ROUNDS):
            if math.hypot(*away) < NEAR * self._size or share < LEAST_SHARE:
                break
            rows, open_by = self._conditions(at, held)
            place = target[0] - away[0], target[1] - away[1]
            pull = self._columns(body, place, at)
            step = share * self._step(rows, open_by, pull, away)
            if not step.any():
                break
            trial = self._closed(self._standing(at.now + step), held)
            left = away if trial is None else self._away(trial.poses[body], point, target)
            if trial is None or math.hypot(*left) >= math.hypot(*away):
                share *= 0.3
                continue
            small = math.hypot(*left) > (1 - 1e-6) * math.hypot(*away)
            at, away, share = trial, left, min(1.0, 3.0 * share)
            if small:
                break
        return at

    @staticmethod
    def _away(
        pose: Floats, point: tuple[float, float], target: tuple[float, float]
    ) -> tuple[float, float]:
        x, y = carried(pose, point)
        return target[0] - x, target[1] - y

    def _closed(self, at: _Standing, held: dict[int, float]) -> _Standing | None:
        """Conditions closed to rounding; None if they cannot be."""
        tied = self.mechanism.coupled or self.mechanism.runs
        if not self._cut and not held and not tied:
            return at
        for _ in range(8):
            rows, open_by = self._conditions(at, held)
            worst = float(np.abs(open_by).max(initial=0.0))
            if worst < CLOSED * self._size:
                return at
            if worst > self._size:
                return None
            at = self._standing(at.now + self._closing(rows, open_by)[0])
        return at if worst < 1e-8 * self._size else None

    def _step(
        self, rows: Floats, open_by: Floats, pull: Floats, away: tuple[float, float]
    ) -> Floats:
        """Least weighted step that keeps the conditions and takes the point along."""
        weight = self._weight
        free = pull
        if len(rows):
            _, basis = self._closing(rows, open_by)
            root = np.sqrt(weight)
            scaled = pull * root
            free = (scaled - (scaled @ basis.T) @ basis) / root
        spread = free * weight
        (a, b), (_, d) = (spread @ free.T).tolist()
        # What the conditions leave of the pull may be nothing but rounding: then do not follow it.
        all_of_it = float(np.einsum("ij,ij,j->", pull, pull, weight))
        a, d = (each + 1e-6 * (a + d) + 1e-8 * all_of_it + 1e-30 for each in (a, d))
        area = a * d - b * b
        push = (d * away[0] - b * away[1]) / area, (a * away[1] - b * away[0]) / area
        step = push[0] * spread[0] + push[1] * spread[1]
        far = max(self._size, max(abs(each) for each in away) / LEAP)
        largest = float(np.abs(step * np.where(self._turns, 1.0, 1.0 / far)).max(initial=0.0))
        return np.asarray(step if largest <= LEAP else step * (LEAP / largest))

    def _closing(self, rows: Floats, open_by: Floats) -> tuple[Floats, Floats]:
        """Least weighted step that closes the conditions, and an orthonormal basis (r, T) of
        what they forbid, in scaled coordinates. Conditions may repeat one another."""
        root = np.sqrt(self._weight)
        left, singular, basis = np.linalg.svd(rows * root, full_matrices=False)
        keep = singular > REPEATED * max(float(singular[0]), 1e-12)
        basis = basis[keep]
        return -root * (basis.T @ ((left.T[keep] @ open_by) / singular[keep])), basis

    # Geometry of the tree ------------------------------------------------------------------

    def _standing(self, now: Floats) -> _Standing:
        """Everything at coordinates (T,): angles add up along the tree, then places do."""
        poses = self._base.copy()
        turn = np.zeros(len(poses))
        turn[self._turn_body], turn[self._root] = now[self._turn], now[self._free + 2]
        poses[:, 2] += self._summed(turn)
        poses[self._root, 0] += now[self._free]
        poses[self._root, 1] += now[self._free + 1]
        turned = np.exp(1j * poses[:, 2])
        own = turned * self._own
        step = turned[self._parent] * self._other - own
        along = np.zeros(0, dtype=complex)
        if len(self._slide_body):
            body = self._slide_body
            along = turned[self._carrier[body]] * self._axis[body]
            run = self._slid[body] + now[self._slide]
            step[body] += self._sign[body] * (run + 1j * self._across[body]) * along
        step[self._loose] = poses[self._loose, 0] + 1j * poses[self._loose, 1]
        places = self._summed(step)
        poses[:, 0], poses[:, 1] = places.real, places.imag
        pivots = np.zeros(self._coordinates, dtype=complex)
        pivots[self._turn] = (places + own)[self._turn_body]
        pivots[self._free + 2] = places[self._root]
        axes = self._carried.copy()
        if len(along):
            axes[self._slide] = self._sign[self._slide_body] * along
        return _Standing(now, poses, pivots, axes)

    def _columns(self, body: int, place: tuple[float, float], at: _Standing) -> Floats:
        """(2, T) how a point of a body moves with the coordinates."""
        arms = complex(*place) - at.pivots
        moves = np.where(self._turns, 1j * arms, at.axes)
        out = np.empty((2, self._coordinates))
        on_path, _ = self._path(body)
        np.multiply(moves.real, on_path, out=out[0])
        np.multiply(moves.imag, on_path, out=out[1])
        return out

    def _path(self, body: int) -> tuple[Mask, Floats]:
        """(T,) which coordinates move a body, and 1 for those that turn it."""
        known = self._paths.get(body)
        if known is None:
            on_path = np.zeros(self._coordinates, dtype=bool)
            above = body
            while above < len(self._moved_by):
                on_path[list(self._moved_by[above])] = True
                above = int(self._above[0][above])
            known = self._paths[body] = on_path, (on_path & self._turns).astype(float)
        return known

    def _summed(self, own: Numbers) -> Numbers:
        """(B,) for every body the sum of what it and all above it in the tree have (B,)."""
        total = np.zeros(len(own) + 1, dtype=own.dtype)
        total[:-1] = own
        for above in self._above:
            total += total.take(above)
        return total[:-1]

    def _conditions(self, at: _Standing, held: dict[int, float]) -> tuple[Floats, Floats]:
        """Rows (m, T) and how far they are open (m,): cut joints, then values at their limits."""
        table, poses = self._table, at.poses
        wanted: list[tuple[int, Kernel, float]] = [
            (joint, kernel, self._target(joint, kernel))
            for joint in self._cut
            for kernel in rows_of(self._kinds[joint])
        ]
        for joint, value in held.items():
            kernel = value_kernel(self._kinds[joint])
            raw = value + float(self.mechanism.zero[joint])
            scale = self._size if self.mechanism.angular[joint] else 1.0
            wanted.append((joint, kernel, raw * scale))
        behind = len(self.mechanism.table.first)
        wanted += [
            (behind + k, run.kernel, run.target) for k, run in enumerate(self.mechanism.runs)
        ]
        plain = len(wanted)
        wanted += [
            (joint, kernel, 0.0)
            for each in self.mechanism.coupled
            for joint, kernel, _ in each.terms
        ]
        rows = np.zeros((len(wanted), self._coordinates))
        open_by = np.zeros(len(wanted))
        for row, (joint, kernel, target) in enumerate(wanted):
            a, b = int(table.first[joint]), int(table.second[joint])
            one, two = (
                carried(poses[a], table.first_point[joint]),
                carried(poses[b], table.second_point[joint]),
            )
            each, curve = condition(kernel), table.curves[joint]
            if isinstance(each, Between) and isinstance(curve, Rod):
                value, gx, gy, hx, hy = each.at_one(curve, one, two, self._size)
                near, far = self._columns(a, one, at), self._columns(b, two, at)
                rows[row] = gx * near[0] + gy * near[1] + hx * far[0] + hy * far[1]
                open_by[row] = value - target
                continue
            moving = self._columns(b, two, at) - self._columns(a, one, at)
            dx, dy = two[0] - one[0], two[1] - one[1]
            angle = float(poses[a, 2]) + float(table.first_angle[joint])
            ux, uy = math.cos(angle), math.sin(angle)
            turn = float(poses[b, 2]) + float(table.second_angle[joint]) - angle
            radius = float(table.radius[joint])
            value, gx, gy, first, second = each.slope(
                (dx, dy, ux, uy, turn, radius, curve, self._size)
            )
            rows[row] = gx * moving[0] + gy * moving[1]
            rows[row] += first * self._path(a)[1] + second * self._path(b)[1]
            open_by[row] = value - target
        return self._coupled(rows, open_by, plain)

    def _coupled(self, rows: Floats, open_by: Floats, plain: int) -> tuple[Floats, Floats]:
        """Rows with the terms of couplings, behind the plain ones, summed up."""
        if not self.mechanism.coupled:
            return rows, open_by
        mix = np.zeros((plain + len(self.mechanism.coupled), len(rows)))
        mix[np.arange(plain), np.arange(plain)] = 1.0
        term = plain
        targets = np.zeros(len(mix))
        for k, each in enumerate(self.mechanism.coupled):
            targets[plain + k] = each.target
            for _, _, factor in each.terms:
                mix[plain + k, term] = factor
                term += 1
        return mix @ rows, mix @ open_by - targets
