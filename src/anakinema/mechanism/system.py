"""The equations of a mechanism with its drivers commanded and some bodies held."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.blocks import BlockInverse, Filling, filling_of
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.conditions import Rows, condition, speeds
from anakinema.mechanism.fields import Run
from anakinema.mechanism.frames import Frames, Indices, frames
from anakinema.mechanism.kernels import Kernel, value_kernel
from anakinema.mechanism.single import SinglePose
from anakinema.mechanism.solve import pseudo_inverses, square_inverses
from anakinema.mechanism.touch import Touch, with_touches

LARGE = 24
"""Unknowns from which on equations are taken apart into blocks."""


@dataclass(frozen=True, slots=True)
class Hold:
    """A quantity kept still because no driver commands it.

    ``kind`` is 'value' of a joint, or 'angle', 'x', 'y' of a body; ``index`` says which.
    """

    kind: str
    index: int


class System:
    """Equations of a mechanism: rows of its joints, then drivers, holds, and what touches.

    Unknowns are (x, y, size·angle) of the moving bodies; every row is in mm.
    """

    def __init__(
        self,
        mechanism: Mechanism,
        drivers: tuple[int, ...] = (),
        holds: tuple[Hold, ...] = (),
        touches: tuple[Touch, ...] = (),
    ) -> None:
        self.mechanism = mechanism
        self.touches = touches
        touches = (*mechanism.runs, *touches)
        self._tied = len(touches)
        self.table = with_touches(mechanism.table, touches)
        self.drivers = drivers
        self.holds = holds
        kinds = [j.kind for j in mechanism.resolved.document.joints]
        held = [h.index for h in holds if h.kind == "value"]
        commanded = [*drivers, *held]
        # Plain rows, those of joints, drivers, holds and touches, then the terms of couplings,
        # which `_mix` makes rows of.
        own = mechanism.row_kernel != int(Kernel.COUPLED)
        plain = [(k, touch) for k, touch in enumerate(touches) if not touch.terms]
        rolling = [(k, touch) for k, touch in enumerate(touches) if touch.terms]
        behind = len(mechanism.table.first)
        sums = [each.terms for each in mechanism.coupled] + [
            tuple((behind + k, kernel, factor) for kernel, factor in touch.terms)
            for k, touch in rolling
        ]
        terms = [term for each in sums for term in each]
        self._kernel = np.concatenate(
            [
                mechanism.row_kernel[own],
                [int(value_kernel(kinds[j])) for j in commanded],
                [int(touch.kernel) for _, touch in plain],
                [int(kernel) for _, kernel, _ in terms],
            ]
        ).astype(np.int64)
        self._joint = np.concatenate(
            [
                mechanism.row_joint[own],
                commanded,
                [behind + k for k, _ in plain],
                [joint for joint, _, _ in terms],
            ]
        ).astype(np.int64)
        self._bodies = [h for h in holds if h.kind != "value"]
        self._joint_rows = len(mechanism.row_kernel)
        self._plain = int(np.count_nonzero(own))
        self._groups = [
            (condition(kernel), np.flatnonzero(self._kernel == int(kernel)))
            for kernel in Kernel
            if np.any(self._kernel == int(kernel))
        ]
        self._base_rows = len(self._kernel) + len(self._bodies)
        single = len(commanded) + len(plain)
        self.rows = self._joint_rows + single + len(rolling) + len(self._bodies)
        self._mix = self._mixing(single, sums) if sums else None
        self.unknowns = mechanism.unknowns
        self._moving = np.flatnonzero(~mechanism.fixed)
        axes = {"x": 0, "y": 1, "angle": 2}
        self._body_index = np.array([h.index for h in self._bodies], dtype=np.int64)
        self._body_axis = np.array([axes[h.kind] for h in self._bodies], dtype=np.int64)
        self._body_scale = np.where(self._body_axis == 2, mechanism.size, 1.0)
        order = np.concatenate([rows for _, rows in self._groups] or [np.zeros(0, dtype=np.int64)])
        table, joints = self.table, self._joint[order]
        sides = np.stack([table.first[joints], table.second[joints]], axis=1)
        columns = mechanism.column[sides][:, :, None] + np.arange(3)
        self._scatter = (order[:, None] * (self.unknowns + 3) + columns.reshape(-1, 6)).ravel()
        # One pose alone is asked of a mechanism, never of many variants.
        self._single = None
        if table.radius.ndim == 1:
            self._single = SinglePose(
                table,
                mechanism.column.tolist(),
                self.unknowns,
                mechanism.size,
                [
                    (condition(Kernel(k)), j)
                    for k, j in zip(self._kernel.tolist(), self._joint.tolist(), strict=True)
                ],
            )
        angular = mechanism.angular[commanded] if commanded else np.zeros(0, dtype=bool)
        self._target_scale = np.where(angular, mechanism.size, 1.0)
        self._target_zero = mechanism.zero[..., commanded] if commanded else np.zeros(0)
        self._touch_target = np.array([touch.target for _, touch in (*plain, *rolling)])
        period = np.zeros(self.rows)
        turning = np.flatnonzero(mechanism.row_kernel == int(Kernel.TRACK_TURN))
        period[turning] = 2 * np.pi * mechanism.size
        if commanded:
            span = slice(self._joint_rows, self._joint_rows + len(commanded))
            period[span] = mechanism.period[commanded] * self._target_scale
        for k, (_, touch) in enumerate(plain):
            if isinstance(touch.curve, Run):
                at_row = self._joint_rows + len(commanded) + k
                period[at_row] = 2 * np.pi * abs(touch.curve.across)
        for k, (_, touch) in enumerate(rolling):
            around = sum(abs(factor) for kernel, factor in touch.terms if kernel is Kernel.POLAR)
            period[self._joint_rows + single + k] = 2 * np.pi * mechanism.size * around
        self._periodic = np.flatnonzero(period)
        self._period = period[self._periodic]

    @cached_property
    def _filling(self) -> Filling | None:
        """How blocks are made of the entries of `_entries`, if the equations come apart into
        some and that is worth while."""
        if self.rows != self.unknowns or self.unknowns < LARGE:
            return None
        width = self.unknowns + 3
        base, column = np.divmod(self._scatter, width)
        base = np.append(base, np.arange(len(self._kernel), self._base_rows))
        column = np.append(column, self.mechanism.column[self._body_index] + self._body_axis)
        moves = np.flatnonzero(column < self.unknowns)
        row, factor = base, np.ones(len(base))
        if self._mix is not None:
            # Every base row goes into one row.
            row, factor = np.abs(self._mix).argmax(axis=0)[base], self._mix.sum(axis=0)[base]
        return filling_of(self.rows, row[moves], column[moves], moves, factor[moves])

    def inverses(self, jacobians: Floats) -> Floats:
        """(N, n, R) left inverses of derivatives (N, R, n), as `pseudo_inverses` has them."""
        filling = self._filling
        return pseudo_inverses(jacobians, None if filling is None else filling.order)

    def frames(self, poses: Floats) -> Frames:
        """The joints' frames at poses (..., B, 3), for what is asked of the same poses often."""
        return frames(self.table, poses)

    def block_inverse(self, poses: Floats, at: Frames | None = None) -> BlockInverse | None:
        """The equations at poses (N, B, 3), whose frames may be known, as blocks; None if they are
        few, do not come apart, or if one is singular."""
        filling = self._filling
        if filling is None:
            return None
        entries = self._entries(at or self.frames(poses), poses.shape[:-2])
        still = np.ones((len(poses), len(self._bodies)))
        both = filling.filled(np.concatenate([entries.reshape(len(poses), -1), still], axis=1))
        sizes = [len(block.own) for block in filling.order.blocks]
        own = (each[:, :, :size] for each, size in zip(both, sizes, strict=True))
        before = (each[:, :, size:] for each, size in zip(both, sizes, strict=True))
        try:
            return BlockInverse(filling.order, own, before, square_inverses)
        except np.linalg.LinAlgError:
            return None

    @property
    def driver_rows(self) -> slice:
        """The rows that command drivers."""
        return slice(self._joint_rows, self._joint_rows + len(self.drivers))

    def is_like(self, other: System) -> bool:
        """Whether another system has the same equations, row by row."""
        return self is other or (
            self.mechanism is other.mechanism
            and (self.drivers, self.holds) == (other.drivers, other.holds)
            and not (self.touches or other.touches)
        )

    def _open(self, residual: Floats) -> Floats:
        """Residual (..., R) with what is known up to a period taken to be the nearest."""
        if len(self._periodic):
            part = residual[..., self._periodic]
            residual[..., self._periodic] = part - self._period * np.round(part / self._period)
        return residual

    def _mixing(self, single: int, sums: Sequence[tuple[tuple[int, Kernel, float], ...]]) -> Floats:
        """(R, S): how the rows come of the base rows, which have terms where rows have sums.

        Sums of couplings stand with the rows of joints, those of rolling behind the ``single``
        rows of drivers, holds and touches.
        """
        mix = np.zeros((self.rows, self._base_rows))
        plain, joint_rows = self._plain, self._joint_rows
        mix[np.arange(plain), np.arange(plain)] = 1.0
        term, coupled = plain + single, joint_rows - plain
        for k, each in enumerate(sums):
            row = plain + k if k < coupled else joint_rows + single + k - coupled
            for _, _, factor in each:
                mix[row, term] = factor
                term += 1
        for k in range(single):
            mix[joint_rows + k, plain + k] = 1.0
        behind = self.rows - len(self._bodies)
        for k in range(len(self._bodies)):
            mix[behind + k, term + k] = 1.0
        return mix

    def _mixed(self, base: Floats, *, most: bool = False) -> Floats:
        """Base rows (..., S) as rows (..., R); ``most`` adds up what each term can be at most."""
        if self._mix is None:
            return base
        return np.asarray(base @ (np.abs(self._mix) if most else self._mix).T)

    def scaled_rates(self, rates: Floats) -> Floats:
        """(..., B, 3) body rates from unknown rates (..., n); fixed bodies are still."""
        spread = np.zeros((*rates.shape[:-1], len(self.mechanism.fixed), 3))
        spread[..., self._moving, :] = rates.reshape(*rates.shape[:-1], -1, 3)
        spread[..., 2] /= self.mechanism.size
        return spread

    def unknown_rates(self, rates: Floats) -> Floats:
        """(..., n) unknown rates from body rates (..., B, 3), the inverse of `scaled_rates`."""
        moving = rates[..., self._moving, :] * np.array([1.0, 1.0, self.mechanism.size])
        return np.asarray(moving.reshape(*rates.shape[:-2], -1))

    def moved(self, poses: Floats, step: Floats) -> Floats:
        """Poses (..., B, 3) after a step (..., n) of the unknowns."""
        return poses + self.scaled_rates(step)

    @property
    def held_joints(self) -> list[int]:
        """Joints whose value is held."""
        return [h.index for h in self.holds if h.kind == "value"]

    def targets(self, values: Floats, poses: Floats, kept: Floats | None = None) -> Floats:
        """(..., R) right-hand sides for driver values (..., D), holds taken from ``poses``.

        ``kept`` (..., H) are the raw values of `held_joints`, if they are not those of the poses.
        """
        mechanism = self.mechanism
        lead = np.broadcast_shapes(values.shape[:-1], mechanism.row_target.shape[:-1])
        held = self.held_joints
        parts = [np.broadcast_to(mechanism.row_target, (*lead, self._joint_rows))]
        if kept is None:
            kept = mechanism.values(poses)[..., held] if held else np.zeros((*poses.shape[:-2], 0))
        commanded = np.concatenate(
            [
                np.broadcast_to(values, (*lead, values.shape[-1])),
                np.broadcast_to(kept, (*lead, len(held))),
            ],
            axis=-1,
        )
        parts.append((commanded + self._target_zero) * self._target_scale)
        if self._tied:
            parts.append(np.broadcast_to(self._touch_target, (*lead, self._tied)))
        if self._bodies:
            still = poses[..., self._body_index, self._body_axis] * self._body_scale
            parts.append(np.broadcast_to(still, (*lead, len(self._bodies))))
        return np.concatenate(parts, axis=-1)

    @property
    def at_rest(self) -> Floats:
        """(R,) right-hand sides of joints, couplings, loops and touches, nothing commanded."""
        return self.targets(np.zeros(0), self.mechanism.resolved.poses)

    def target_rates(self, rates: Floats) -> Floats:
        """(..., R) rate of the right-hand sides for driver rates (..., D)."""
        out = np.zeros((*rates.shape[:-1], self.rows))
        out[..., self.driver_rows] = rates * self._target_scale[: len(self.drivers)]
        return out

    def residual(self, poses: Floats, targets: Floats) -> Floats:
        """(..., R) mm: how far every row is from its target."""
        at = frames(self.table, poses)
        return self._open(self._residual(at, poses) - targets)

    def _residual(self, at: Frames, poses: Floats) -> Floats:
        out = np.empty((*poses.shape[:-2], self._base_rows))
        for each, rows in self._groups:
            out[..., rows] = each.residual(self._rows(at, rows))
        if self._bodies:
            out[..., len(self._kernel) :] = (
                poses[..., self._body_index, self._body_axis] * self._body_scale
            )
        return self._mixed(out)

    def residual_jacobian(self, poses: Floats, targets: Floats) -> tuple[Floats, Floats]:
        """Residual (..., R) and its derivatives (..., R, n)."""
        mechanism = self.mechanism
        if poses.ndim == 2:
            return self._single_residual_jacobian(poses, targets)
        at = frames(self.table, poses)
        lead, width = poses.shape[:-2], self.unknowns + 3
        jacobian = np.zeros((*lead, self._base_rows * width))
        jacobian[..., self._scatter] = self._entries(at, lead).reshape(*lead, -1)
        if self._bodies:
            rows = np.arange(len(self._kernel), self._base_rows)
            columns = mechanism.column[self._body_index] + self._body_axis
            jacobian[..., rows * width + columns] = 1.0
        matrix = jacobian.reshape(*lead, self._base_rows, width)[..., : self.unknowns]
        if self._mix is not None:
            matrix = self._mixed_rows(matrix)
        return self._open(self._residual(at, poses) - targets), matrix

    def _entries(self, at: Frames, lead: tuple[int, ...]) -> Floats:
        """(..., K, 6) derivatives of all conditions by the poses of both bodies, kernel by
        kernel."""
        entries = np.empty((*lead, len(self._kernel), 6))
        first = 0
        for each, rows in self._groups:
            entries[..., first : first + len(rows), :] = each.partials(self._rows(at, rows))
            first += len(rows)
        return entries

    def _mixed_rows(self, matrix: Floats) -> Floats:
        """Derivatives (..., S, n) of base rows as those (..., R, n) of rows; most rows are one."""
        assert self._mix is not None
        row, term = np.nonzero(self._mix)
        out = np.zeros((*matrix.shape[:-2], self.rows, matrix.shape[-1]))
        while len(row):
            # One term of every row at a time.
            now = np.unique(row, return_index=True)[1]
            factors = self._mix[row[now], term[now], None]
            out[..., row[now], :] += factors * matrix[..., term[now], :]
            row, term = np.delete(row, now), np.delete(term, now)
        return out

    def _single_residual_jacobian(self, poses: Floats, targets: Floats) -> tuple[Floats, Floats]:
        assert self._single is not None
        values, matrix = self._single.residual_jacobian(poses)
        if self._bodies:
            still = poses[self._body_index, self._body_axis] * self._body_scale
            rows = np.zeros((len(self._bodies), self.unknowns))
            columns = self.mechanism.column[self._body_index] + self._body_axis
            rows[np.arange(len(self._bodies)), columns] = 1.0
            values, matrix = np.concatenate([values, still]), np.vstack([matrix, rows])
        if self._mix is not None:
            matrix = self._mix @ matrix
        return self._open(self._mixed(values) - targets), matrix

    def quadratic(self, poses: Floats, rates: Floats) -> Floats:
        """(..., R) velocity term of the acceleration equations at body rates (..., B, 3)."""
        if poses.ndim == 2:
            assert self._single is not None
            term = self._single.quadratic(poses, rates)
            term = np.append(term, np.zeros(len(self._bodies))) if self._bodies else term
            return self._mixed(term)
        at = frames(self.table, poses)
        out = np.zeros((*poses.shape[:-2], self._base_rows))
        for each, rows in self._groups:
            out[..., rows] = each.quadratic(self._rows(at, rows), rates)
        return self._mixed(out)

    def change_bound(self, at: Frames, most: Floats, reach: Floats) -> Floats:
        """(..., R) how far J(q)·v can differ from J(q0)·v while the program moves by ``reach``.

        ``at``: frames at the poses q0.
        ``most`` (..., B, 3) bounds |v| of every body over that stretch, ``reach`` (...) is its
        length on either side of q0. Proof in docs/methods.md, "Certified speeds".
        """
        out = np.zeros((*most.shape[:-2], self._base_rows))
        fastest = speeds(self.table, at, most, reach)
        for each, rows in self._groups:
            on = self._rows(at, rows)
            out[..., rows] = each.bound(on, fastest.taken(on.joints))
        return self._mixed(out, most=True)

    def _rows(self, at: Frames, rows: Indices) -> Rows:
        return Rows(self.table, at, self._joint[rows], self.mechanism.size)

    def joint_of_row(self, row: int) -> int | None:
        """Index of the joint that imposes a row, None for drivers and holds."""
        return int(self.mechanism.row_joint[row]) if row < self._joint_rows else None
