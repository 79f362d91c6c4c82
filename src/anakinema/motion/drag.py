"""Drag to try: a grabbed body follows the pointer through the whole mechanism.

Coordinates are the values of joints along a spanning tree (angles, slides, and the place of a
root that hangs on nothing), so that a long chain has few unknowns and its joints cannot open.
Loops and slots are conditions on them. Each step closes the conditions, then moves the grabbed
point in what freedom they leave, with least weighted motion (projected, damped Gauss-Newton;
docs/methods.md, "Drag"). Joint limits are active sets: a value that would pass its limit is
held there and the step is made anew.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.constraints import KIND_ROWS, VALUE_KERNEL, Kernel
from anakinema.motion.sweep import turns_shown

MOST_ROUNDS = 14
MOST_LIMITS = 6
CLOSED = 1e-10
"""Share of the size that conditions are closed to."""
NEAR = 1e-7
"""Share of the size that the pointer is followed to."""
REPEATED = 1e-6
"""Singular values below this share of the largest belong to repeated conditions."""
LEAP = 0.35
"""rad (or share of the size) that one round may move a coordinate."""


@dataclass(frozen=True, slots=True)
class _Link:
    """A body in the tree: how it hangs on its parent.

    kind : 'turn', 'slide', 'still' or 'free'. coordinate : index of its first coordinate.
    ``own`` and ``other`` are the places on it and on its parent (x, y). For a slide, ``axis`` is
    the direction and ``across`` the offset; ``carries`` whether the parent has the axis.
    """

    body: int
    parent: int
    kind: str
    coordinate: int
    own: tuple[float, float]
    other: tuple[float, float]
    axis: float
    across: float
    carries: bool
    joint: int


@dataclass(frozen=True, slots=True, eq=False)
class Pulled:
    """Poses (B, 3) after a pull, how far the point stays from the pointer (mm), and the joints
    whose limits hold it back."""

    poses: Floats
    away: float
    held_by: tuple[int, ...]


class Drag:
    """One gesture: made when a body is grabbed, asked at every move of the pointer."""

    def __init__(
        self, mechanism: Mechanism, poses: Floats, held: frozenset[int] = frozenset()
    ) -> None:
        self.mechanism = mechanism
        self._still = mechanism.fixed.copy()
        self._still[list(held)] = True
        self._kinds = [joint.kind for joint in mechanism.resolved.document.joints]
        self._size = mechanism.size
        self._shift = turns_shown(mechanism, mechanism.resolved.program, mechanism.values(poses))
        self._grow_tree(poses)
        self._poses = poses.copy()

    # The tree ------------------------------------------------------------------------------

    def _grow_tree(self, poses: Floats) -> None:
        table = self.mechanism.table
        count = len(self._still)
        neighbours: list[list[tuple[int, int]]] = [[] for _ in range(count)]
        for joint, (a, b) in enumerate(
            zip(table.first.tolist(), table.second.tolist(), strict=True)
        ):
            if self._kinds[joint] in ("revolute", "prismatic", "rigid", "block_on_arc"):
                neighbours[a].append((joint, b))
                neighbours[b].append((joint, a))
        seen = self._still.copy()
        self._links: list[_Link] = []
        self._coordinates = 0
        used: set[int] = set()
        queue = [int(b) for b in np.flatnonzero(self._still)]
        roots = iter([int(b) for b in np.flatnonzero(~self._still)])
        while True:
            if not queue:
                root = next((b for b in roots if not seen[b]), None)
                if root is None:
                    break
                seen[root] = True
                self._hang(root, -1, "free", -1, poses)
                queue = [root]
            body = queue.pop(0)
            for joint, other in neighbours[body]:
                if not seen[other]:
                    seen[other] = True
                    used.add(joint)
                    kind = {"prismatic": "slide", "rigid": "still"}.get(self._kinds[joint], "turn")
                    self._hang(other, body, kind, joint, poses)
                    queue.append(other)
        moving = ~self._still
        self._cut = [
            joint
            for joint in range(len(self._kinds))
            if joint not in used and (moving[table.first[joint]] or moving[table.second[joint]])
        ]
        self._path = np.zeros((count, self._coordinates), dtype=bool)
        width = {"turn": 1, "slide": 1, "still": 0, "free": 3}
        for link in self._links:
            if link.parent >= 0:
                self._path[link.body] = self._path[link.parent]
            self._path[link.body, link.coordinate : link.coordinate + width[link.kind]] = True
        self._turns = np.zeros(self._coordinates, dtype=bool)
        weight = np.ones(self._coordinates)
        for link in self._links:
            if link.kind == "turn":
                self._turns[link.coordinate] = True
                weight[link.coordinate] = 1.0 / self._size**2
            elif link.kind == "free":
                # A part that hangs on nothing is carried along rather than turned.
                self._turns[link.coordinate + 2] = True
                weight[link.coordinate + 2] = 0.02 / self._size**2
        self._weight = weight
        self._value_of = {
            link.joint: link.coordinate for link in self._links if link.kind in ("turn", "slide")
        }

    def _hang(self, body: int, parent: int, kind: str, joint: int, poses: Floats) -> None:
        table = self.mechanism.table
        own = other = (0.0, 0.0)
        axis = across = 0.0
        carries = True
        if joint >= 0:
            carries = int(table.first[joint]) == parent
            first = (float(table.first_point[joint, 0]), float(table.first_point[joint, 1]))
            second = (float(table.second_point[joint, 0]), float(table.second_point[joint, 1]))
            own, other = (second, first) if carries else (first, second)
            axis = float(table.first_angle[joint])
            across = float(self._target(joint, Kernel.ACROSS))
        self._links.append(
            _Link(body, parent, kind, self._coordinates, own, other, axis, across, carries, joint)
        )
        self._coordinates += {"turn": 1, "slide": 1, "still": 0, "free": 3}[kind]

    def _target(self, joint: int, kernel: Kernel) -> float:
        m = self.mechanism
        rows = np.flatnonzero((m.row_joint == joint) & (m.row_kernel == int(kernel)))
        return float(m.row_target[rows[0]]) if len(rows) else 0.0

    # One pull ------------------------------------------------------------------------------

    def pull(self, body: int, point: tuple[float, float], target: tuple[float, float]) -> Pulled:
        """Bring a point of a body (mm, in its own frame) as near to a target as it can come.

        Continues from the pulls before. A body that stands still is not moved.
        """
        if self._still[body] or not self._path[body].any():
            x, y = _at(self._poses[body].tolist(), point)
            return Pulled(self._poses, math.hypot(x - target[0], y - target[1]), ())
        held: dict[int, float] = {}
        poses = self._poses
        for _ in range(MOST_LIMITS):
            found = self._moved(self._poses, body, point, target, held)
            if found is None:
                break
            beyond = self._beyond(found)
            if not beyond.keys() - held.keys():
                poses = found
                break
            held |= beyond
        self._poses = poses
        x, y = _at(poses[body].tolist(), point)
        return Pulled(poses, math.hypot(x - target[0], y - target[1]), tuple(sorted(held)))

    def _beyond(self, poses: Floats) -> dict[int, float]:
        """Joints whose value lies outside its limits, and the raw value they are held at."""
        values = self.mechanism.values(poses) + self._shift
        out: dict[int, float] = {}
        for joint, bounds in enumerate(self.mechanism.resolved.joints):
            tolerance = 1e-9 * (1.0 if self.mechanism.angular[joint] else self._size)
            for bound, sign in ((bounds.least, -1.0), (bounds.greatest, 1.0)):
                if bound is not None and sign * (values[joint] - bound) > tolerance:
                    out[joint] = bound - float(self._shift[joint])
        return out

    def _moved(
        self,
        poses: Floats,
        body: int,
        point: tuple[float, float],
        target: tuple[float, float],
        held: dict[int, float],
    ) -> Floats | None:
        """Poses with the point brought near; None if the conditions cannot be closed."""
        best: Floats | None = None
        away = math.inf
        for turn in range(MOST_ROUNDS):
            pivots, axes = self._world(poses)
            rows, open_by = self._conditions(poses, pivots, axes, held)
            x, y = _at(poses[body].tolist(), point)
            error = np.array([target[0] - x, target[1] - y])
            left = float(np.hypot(*error))
            if float(np.abs(open_by).max(initial=0.0)) < 1e-7 * self._size:
                if left > (1 - 1e-7) * away and turn > 2:
                    break
                if left < away:
                    best, away = poses, left
            if left < NEAR * self._size and best is poses:
                break
            pull = self._columns(body, (x, y), pivots, axes)
            step = self._step(rows, open_by, pull, error)
            poses = self._stepped(poses, step)
        return None if best is None else self._closed(best, held)

    def _closed(self, poses: Floats, held: dict[int, float]) -> Floats | None:
        """Conditions closed to rounding."""
        if not self._cut and not held:
            return poses
        for _ in range(6):
            pivots, axes = self._world(poses)
            rows, open_by = self._conditions(poses, pivots, axes, held)
            worst = float(np.abs(open_by).max(initial=0.0))
            if worst < CLOSED * self._size:
                return poses
            poses = self._stepped(poses, self._closing(rows, open_by)[0])
        return poses if worst < 1e-8 * self._size else None

    def _step(self, rows: Floats, open_by: Floats, pull: Floats, error: Floats) -> Floats:
        """Least weighted step that closes the conditions and takes the point along."""
        weight = self._weight
        step = np.zeros(self._coordinates)
        free = pull
        if len(rows):
            step, basis = self._closing(rows, open_by)
            scaled = pull * np.sqrt(weight)
            free = (scaled - (scaled @ basis.T) @ basis) / np.sqrt(weight)
        spread = free * weight
        square = spread @ free.T
        # What the conditions leave of the pull may be nothing but rounding: then do not follow it.
        square[np.diag_indices_from(square)] += (
            1e-6 * float(np.trace(square)) + 1e-8 * float(np.sum(pull * pull * weight)) + 1e-30
        )
        step = step + spread.T @ np.linalg.solve(square, error - pull @ step)
        far = max(self._size, float(np.abs(error).max()) / LEAP)
        scale = np.where(self._turns, 1.0, 1.0 / far)
        largest = float(np.abs(step * scale).max(initial=0.0))
        return step if largest <= LEAP else step * (LEAP / largest)

    def _closing(self, rows: Floats, open_by: Floats) -> tuple[Floats, Floats]:
        """Least weighted step that closes the conditions, and an orthonormal basis (r, T) of
        what they forbid, in scaled coordinates. Conditions may repeat one another."""
        root = np.sqrt(self._weight)
        left, singular, basis = np.linalg.svd(rows * root, full_matrices=False)
        keep = singular > REPEATED * max(float(singular[0]), 1e-12)
        basis = basis[keep]
        return -root * (basis.T @ ((left.T[keep] @ open_by) / singular[keep])), basis

    # Geometry of the tree ------------------------------------------------------------------

    def _world(self, poses: Floats) -> tuple[Floats, Floats]:
        """Of every coordinate: the point it turns about (T, 2), the direction it moves (T, 2)."""
        q = poses.tolist()
        pivots = np.zeros((self._coordinates, 2))
        axes = np.zeros((self._coordinates, 2))
        for link in self._links:
            k = link.coordinate
            if link.kind == "turn":
                pivots[k] = _at(q[link.body], link.own)
            elif link.kind == "slide":
                carrier = link.parent if link.carries else link.body
                angle = q[carrier][2] + link.axis
                sign = 1.0 if link.carries else -1.0
                axes[k] = (sign * math.cos(angle), sign * math.sin(angle))
            elif link.kind == "free":
                axes[k], axes[k + 1] = (1.0, 0.0), (0.0, 1.0)
                pivots[k + 2] = q[link.body][:2]
        return pivots, axes

    def _columns(self, body: int, at: tuple[float, float], pivots: Floats, axes: Floats) -> Floats:
        """(2, T) how a point of a body moves with the coordinates."""
        out = np.where(self._turns, np.stack([pivots[:, 1] - at[1], at[0] - pivots[:, 0]]), axes.T)
        return np.asarray(out * self._path[body])

    def _conditions(
        self, poses: Floats, pivots: Floats, axes: Floats, held: dict[int, float]
    ) -> tuple[Floats, Floats]:
        """Rows (m, T) and how far they are open (m,): cut joints, then values at their limits."""
        table = self.mechanism.table
        wanted: list[tuple[int, Kernel, float]] = [
            (joint, kernel, self._target(joint, kernel))
            for joint in self._cut
            for kernel in KIND_ROWS[self._kinds[joint]]
        ]
        for joint, value in held.items():
            kernel = VALUE_KERNEL[self._kinds[joint]]
            raw = value + float(self.mechanism.zero[joint])
            scale = self._size if self.mechanism.angular[joint] else 1.0
            wanted.append((joint, kernel, raw * scale))
        rows = np.zeros((len(wanted), self._coordinates))
        open_by = np.zeros(len(wanted))
        q = poses.tolist()
        for row, (joint, kernel, target) in enumerate(wanted):
            a, b = int(table.first[joint]), int(table.second[joint])
            one = _at(q[a], (table.first_point[joint, 0], table.first_point[joint, 1]))
            two = _at(q[b], (table.second_point[joint, 0], table.second_point[joint, 1]))
            moving = self._columns(b, two, pivots, axes) - self._columns(a, one, pivots, axes)
            turning = self._path[a] & self._turns
            dx, dy = two[0] - one[0], two[1] - one[1]
            angle = q[a][2] + float(table.first_angle[joint])
            ux, uy = math.cos(angle), math.sin(angle)
            along, across = ux * dx + uy * dy, ux * dy - uy * dx
            if kernel in (Kernel.APART_X, Kernel.APART_Y):
                rows[row], value = moving[int(kernel)], (dx, dy)[int(kernel)]
            elif kernel is Kernel.TURN:
                spin = (self._path[b] & self._turns).astype(float) - turning
                rows[row] = self._size * spin
                value = self._size * (q[b][2] + float(table.second_angle[joint]) - angle)
            elif kernel is Kernel.ACROSS:
                rows[row], value = ux * moving[1] - uy * moving[0] - along * turning, across
            elif kernel is Kernel.ALONG:
                rows[row], value = ux * moving[0] + uy * moving[1] + across * turning, along
            elif kernel is Kernel.CIRCLE:
                radius = float(table.radius[joint])
                rows[row] = (dx * moving[0] + dy * moving[1]) / radius
                value = ((dx * dx + dy * dy) / radius - radius) / 2
            else:
                square = dx * dx + dy * dy
                rows[row] = self._size * ((dx * moving[1] - dy * moving[0]) / square - turning)
                value = self._size * math.atan2(across, along)
            open_by[row] = value - target
        return rows, open_by

    def _stepped(self, poses: Floats, step: Floats) -> Floats:
        """Poses after a step of the coordinates, joints of the tree exactly closed."""
        before, after = poses.tolist(), poses.tolist()
        change = step.tolist()
        for link in self._links:
            body, k = link.body, link.coordinate
            if link.kind == "free":
                x, y, angle = before[body]
                after[body] = [x + change[k], y + change[k + 1], angle + change[k + 2]]
                continue
            old, new = before[link.parent], after[link.parent]
            angle = before[body][2] - old[2] + new[2]
            if link.kind == "turn":
                angle += change[k]
            if link.kind != "slide":
                px, py = _at(new, link.other)
                c, s = math.cos(angle), math.sin(angle)
                x, y = link.own
                after[body] = [px - c * x + s * y, py - s * x - c * y, angle]
                continue
            carrier = old if link.carries else before[body]
            ux, uy = math.cos(carrier[2] + link.axis), math.sin(carrier[2] + link.axis)
            one = _at(old, link.other)
            two = _at(before[body], link.own)
            sign = 1.0 if link.carries else -1.0
            slide = sign * (ux * (two[0] - one[0]) + uy * (two[1] - one[1])) + change[k]
            carrier_angle = (new[2] if link.carries else angle) + link.axis
            ux, uy = math.cos(carrier_angle), math.sin(carrier_angle)
            px, py = _at(new, link.other)
            px += sign * (slide * ux - link.across * uy)
            py += sign * (slide * uy + link.across * ux)
            c, s = math.cos(angle), math.sin(angle)
            x, y = link.own
            after[body] = [px - c * x + s * y, py - s * x - c * y, angle]
        return np.array(after)


def _at(pose: list[float], point: tuple[float, float]) -> tuple[float, float]:
    c, s = math.cos(pose[2]), math.sin(pose[2])
    x, y = point
    return pose[0] + c * x - s * y, pose[1] + s * x + c * y
