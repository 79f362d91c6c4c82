"""All conditions of a system at one pose, in plain floats."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.geometry.poses import turned
from anakinema.mechanism.conditions import Between, Condition, Here
from anakinema.mechanism.fields import Bend, Rod, Run
from anakinema.mechanism.frames import JointTable


@dataclass(frozen=True, slots=True)
class _Joint:
    first: int
    second: int
    first_point: tuple[float, float]
    second_point: tuple[float, float]
    first_angle: float
    second_angle: float
    radius: float
    curve: Curve | Bend | Run | Rod | None
    first_column: int
    second_column: int
    rows: tuple[tuple[int, Condition], ...]


class SinglePose:
    """Residual, Jacobian and velocity term of rows of conditions at one pose."""

    def __init__(
        self,
        table: JointTable,
        column: Sequence[int],
        unknowns: int,
        size: float,
        rows: Sequence[tuple[Condition, int]],
    ) -> None:
        self.size, self.unknowns, self.rows = size, unknowns, len(rows)
        by_joint: dict[int, list[tuple[int, Condition]]] = {}
        for index, (condition, joint) in enumerate(rows):
            by_joint.setdefault(joint, []).append((index, condition))
        self._joints = [
            _Joint(
                int(table.first[j]),
                int(table.second[j]),
                (float(table.first_point[j, 0]), float(table.first_point[j, 1])),
                (float(table.second_point[j, 0]), float(table.second_point[j, 1])),
                float(table.first_angle[j]),
                float(table.second_angle[j]),
                float(table.radius[j]),
                table.curves[j],
                int(column[table.first[j]]),
                int(column[table.second[j]]),
                tuple(conditions),
            )
            for j, conditions in by_joint.items()
        ]
        # Few mechanisms have conditions between planes; the others do not pay for asking.
        self._spanning = [joint for joint in self._joints if isinstance(joint.curve, Rod)]
        if self._spanning:
            self._joints = [joint for joint in self._joints if joint not in self._spanning]

    def residual_jacobian(self, poses: Floats) -> tuple[Floats, Floats]:
        """Values (R,) of the rows, targets not subtracted, and derivatives (R, n)."""
        q = poses.tolist()
        turns = [(math.cos(p[2]), math.sin(p[2])) for p in q]
        width = self.unknowns + 3
        values = [0.0] * self.rows
        entries = [0.0] * (self.rows * width)
        size = self.size
        for joint in self._joints:
            a, b = q[joint.first], q[joint.second]
            c, s = turns[joint.first]
            x, y = joint.first_point
            ax, ay = c * x - s * y, s * x + c * y
            c, s = turns[joint.second]
            x, y = joint.second_point
            bx, by = c * x - s * y, s * x + c * y
            here = _here(joint, a, b, b[0] + bx - a[0] - ax, b[1] + by - a[1] - ay, size)
            for row, condition in joint.rows:
                i = row * width + joint.first_column
                k = row * width + joint.second_column
                values[row], gx, gy, first, second = condition.slope(here)
                entries[i], entries[i + 1] = -gx, -gy
                entries[i + 2] = (first + gx * ay - gy * ax) / size
                entries[k], entries[k + 1] = gx, gy
                entries[k + 2] = (second + gy * bx - gx * by) / size
        for joint in self._spanning:
            one, two, (ax, ay), (bx, by) = _both_places(joint, q)
            for row, condition in joint.rows:
                assert isinstance(condition, Between) and isinstance(joint.curve, Rod)
                i = row * width + joint.first_column
                k = row * width + joint.second_column
                values[row], gx, gy, hx, hy = condition.at_one(joint.curve, one, two, size)
                entries[i], entries[i + 1] = gx, gy
                entries[i + 2] = (gy * ax - gx * ay) / size
                entries[k], entries[k + 1] = hx, hy
                entries[k + 2] = (hy * bx - hx * by) / size
        matrix = np.array(entries).reshape(self.rows, width)[:, : self.unknowns]
        return np.array(values), matrix

    def quadratic(self, poses: Floats, rates: Floats) -> Floats:
        """(R,) velocity term of the acceleration equations at body rates (B, 3)."""
        q, v = poses.tolist(), rates.tolist()
        out = [0.0] * self.rows
        for joint in self._joints:
            a, b = q[joint.first], q[joint.second]
            va, vb = v[joint.first], v[joint.second]
            c, s = math.cos(a[2]), math.sin(a[2])
            x, y = joint.first_point
            ax, ay = c * x - s * y, s * x + c * y
            c, s = math.cos(b[2]), math.sin(b[2])
            x, y = joint.second_point
            bx, by = c * x - s * y, s * x + c * y
            here = _here(joint, a, b, b[0] + bx - a[0] - ax, b[1] + by - a[1] - ay, self.size)
            w1, w2 = va[2], vb[2]
            going = (
                vb[0] - w2 * by - va[0] + w1 * ay,
                vb[1] + w2 * bx - va[1] - w1 * ax,
                w1,
                w2,
                w2 * w2 * bx - w1 * w1 * ax,
                w2 * w2 * by - w1 * w1 * ay,
            )
            for row, condition in joint.rows:
                out[row] = condition.pull(here, going)
        for joint in self._spanning:
            one, two, (ax, ay), (bx, by) = _both_places(joint, q)
            va, vb = v[joint.first], v[joint.second]
            w1, w2 = va[2], vb[2]
            moving = (
                (va[0] - w1 * ay, va[1] + w1 * ax),
                (vb[0] - w2 * by, vb[1] + w2 * bx),
                (w1 * w1 * ax, w1 * w1 * ay),
                (w2 * w2 * bx, w2 * w2 * by),
            )
            for row, condition in joint.rows:
                assert isinstance(condition, Between) and isinstance(joint.curve, Rod)
                out[row] = condition.pull_at_one(joint.curve, one, two, moving, self.size)
        return np.array(out)


Point = tuple[float, float]


def _both_places(joint: _Joint, q: list[list[float]]) -> tuple[Point, Point, Point, Point]:
    """Both places of a joint as their planes have them, and their arms."""
    a, b = q[joint.first], q[joint.second]
    one, two = turned(joint.first_point, a[2]), turned(joint.second_point, b[2])
    return (a[0] + one[0], a[1] + one[1]), (b[0] + two[0], b[1] + two[1]), one, two


def _here(joint: _Joint, a: list[float], b: list[float], dx: float, dy: float, size: float) -> Here:
    direction = a[2] + joint.first_angle
    return (
        dx,
        dy,
        math.cos(direction),
        math.sin(direction),
        b[2] + joint.second_angle - direction,
        joint.radius,
        joint.curve,
        size,
    )
