"""The constraint kernels for one pose in plain floats: ten times quicker there than arrays.

Following a branch evaluates one pose after another, where the price of an array operation is its
call. Formulas are those of `anakinema.mechanism.constraints`; a test holds the two together.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.mechanism.fields import Bend, Run, field
from anakinema.mechanism.frames import JointTable
from anakinema.mechanism.kernels import ANGLES, ON_CURVE, Kernel

TINY = 1e-300
"""mm²; keeps a point in the very centre, which has no direction, from a division by zero."""


@dataclass(frozen=True, slots=True)
class _Joint:
    first: int
    second: int
    first_point: tuple[float, float]
    second_point: tuple[float, float]
    first_angle: float
    second_angle: float
    radius: float
    curve: Curve | Bend | Run | None
    first_column: int
    second_column: int
    rows: tuple[tuple[int, Kernel], ...]


class SinglePose:
    """Residual, Jacobian and velocity term of kernel rows at one pose."""

    def __init__(
        self,
        table: JointTable,
        column: Sequence[int],
        unknowns: int,
        size: float,
        rows: Sequence[tuple[Kernel, int]],
    ) -> None:
        self.size, self.unknowns, self.rows = size, unknowns, len(rows)
        by_joint: dict[int, list[tuple[int, Kernel]]] = {}
        for index, (kernel, joint) in enumerate(rows):
            by_joint.setdefault(joint, []).append((index, kernel))
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
                tuple(kernels),
            )
            for j, kernels in by_joint.items()
        ]

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
            dx, dy = b[0] + bx - a[0] - ax, b[1] + by - a[1] - ay
            for row, kernel in joint.rows:
                i = row * width + joint.first_column
                k = row * width + joint.second_column
                if kernel is Kernel.APART_X:
                    values[row] = dx
                    entries[i], entries[i + 2] = -1.0, ay / size
                    entries[k], entries[k + 2] = 1.0, -by / size
                elif kernel is Kernel.APART_Y:
                    values[row] = dy
                    entries[i + 1], entries[i + 2] = -1.0, -ax / size
                    entries[k + 1], entries[k + 2] = 1.0, bx / size
                elif kernel is Kernel.TURN:
                    turn = b[2] + joint.second_angle - a[2] - joint.first_angle
                    values[row] = size * turn
                    entries[i + 2], entries[k + 2] = -1.0, 1.0
                else:
                    direction = a[2] + joint.first_angle
                    ux, uy = math.cos(direction), math.sin(direction)
                    along, across = ux * dx + uy * dy, ux * dy - uy * dx
                    if kernel is Kernel.CIRCLE:
                        values[row] = ((dx * dx + dy * dy) / joint.radius - joint.radius) / 2
                        ux, uy, swing = dx / joint.radius, dy / joint.radius, 0.0
                    elif kernel is Kernel.POLAR:
                        values[row], swing = size * math.atan2(across, along), -size
                        share = size / max(dx * dx + dy * dy, TINY)
                        ux, uy = -dy * share, dx * share
                    elif kernel in ON_CURVE:
                        turn = b[2] + joint.second_angle - direction
                        value, (gx, gy, ga), _ = _on_curve(joint, kernel, along, across, turn)
                        scale = size if kernel in ANGLES else 1.0
                        gx, gy, ga = scale * gx, scale * gy, scale * ga
                        values[row], swing = scale * value, gx * across - gy * along - ga
                        ux, uy = gx * ux - gy * uy, gx * uy + gy * ux
                        entries[i], entries[i + 1] = -ux, -uy
                        entries[i + 2] = (swing + ux * ay - uy * ax) / size
                        entries[k], entries[k + 1] = ux, uy
                        entries[k + 2] = (uy * bx - ux * by + ga) / size
                        continue
                    elif kernel is Kernel.ACROSS:
                        values[row], swing = across, -along
                        ux, uy = -uy, ux
                    else:
                        values[row], swing = along, across
                    entries[i], entries[i + 1] = -ux, -uy
                    entries[i + 2] = (swing + ux * ay - uy * ax) / size
                    entries[k], entries[k + 1] = ux, uy
                    entries[k + 2] = (uy * bx - ux * by) / size
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
            w1, w2 = va[2] * va[2], vb[2] * vb[2]
            px, py = w2 * bx - w1 * ax, w2 * by - w1 * ay
            for row, kernel in joint.rows:
                if kernel is Kernel.APART_X:
                    out[row] = px
                elif kernel is Kernel.APART_Y:
                    out[row] = py
                elif kernel is not Kernel.TURN:
                    direction = a[2] + joint.first_angle
                    ux, uy = math.cos(direction), math.sin(direction)
                    dx, dy = b[0] + bx - a[0] - ax, b[1] + by - a[1] - ay
                    mx = vb[0] - vb[2] * by - va[0] + va[2] * ay
                    my = vb[1] + vb[2] * bx - va[1] - va[2] * ax
                    if kernel is Kernel.CIRCLE:
                        out[row] = (dx * px + dy * py - mx * mx - my * my) / joint.radius
                    elif kernel is Kernel.POLAR:
                        square = dx * dx + dy * dy
                        turning = 2 * (dx * mx + dy * my) * (dx * my - dy * mx) / square
                        out[row] = self.size * (dx * py - dy * px + turning) / square
                    elif kernel in ON_CURVE:
                        along, across = ux * dx + uy * dy, ux * dy - uy * dx
                        turn = b[2] + joint.second_angle - direction
                        _, (gx, gy, _), second = _on_curve(joint, kernel, along, across, turn)
                        run, slip = ux * mx + uy * my, ux * my - uy * mx
                        speed = (va[2] * across + run, slip - va[2] * along, vb[2] - va[2])
                        pull = gx * (w1 * along - 2 * va[2] * slip + ux * px + uy * py)
                        pull += gy * (w1 * across + 2 * va[2] * run + ux * py - uy * px)
                        for m in range(3):
                            pull -= speed[m] * sum(second[m][n] * speed[n] for n in range(3))
                        out[row] = self.size * pull if kernel in ANGLES else pull
                    elif kernel is Kernel.ACROSS:
                        out[row] = (
                            w1 * (ux * dy - uy * dx)
                            + 2 * va[2] * (ux * mx + uy * my)
                            + ux * py
                            - uy * px
                        )
                    else:
                        out[row] = (
                            w1 * (ux * dx + uy * dy)
                            - 2 * va[2] * (ux * my - uy * mx)
                            + ux * px
                            + uy * py
                        )
        return np.array(out)


def _on_curve(
    joint: _Joint, kernel: Kernel, along: float, across: float, turn: float
) -> tuple[float, list[float], list[list[float]]]:
    """Value, gradient and second derivatives of a condition on the joint's curve."""
    assert joint.curve is not None
    found = field(kernel, joint.curve, np.array([[along, across]]), np.array([turn]))
    return float(found.value[0]), found.gradient[0].tolist(), found.second[0].tolist()
