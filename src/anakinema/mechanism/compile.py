"""From a resolved document to arrays: the `Mechanism` and the equation `System` on it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.document.model import Joint
from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.mechanism.belts import belt_runs
from anakinema.mechanism.conditions import Condition, Rows, condition
from anakinema.mechanism.contacts import Facing, facings
from anakinema.mechanism.coupled import Coupled, bends, couple
from anakinema.mechanism.frames import Frames, Indices, JointTable, frames
from anakinema.mechanism.kernels import Kernel, rows_of, value_kernel
from anakinema.mechanism.rods import rod_between
from anakinema.mechanism.touch import Touch

MOST_MOVING = 1_000
"""Bodies that can move; their equations are kept as full matrices."""


@dataclass(frozen=True, eq=False)
class Mechanism:
    """A mechanism as arrays: B bodies, K joints.

    fixed : (B,) which bodies stand still; column : (B,) first of the three unknowns of each
    body, fixed bodies share a spare column at the end that is cut off.
    size : mm, the characteristic length that angles are scaled by.
    row_kernel, row_joint, row_target : (R,) the conditions that all joints impose together, and
    behind them one row for each of ``coupled``, with the joint that its first term is of.
    """

    resolved: Resolved
    table: JointTable
    fixed: np.ndarray
    column: Indices
    size: float
    row_kernel: Indices
    row_joint: Indices
    row_target: Floats
    angular: np.ndarray
    zero: Floats
    coupled: tuple[Coupled, ...]

    @property
    def unknowns(self) -> int:
        """Number of coordinates that can move."""
        return 3 * int(np.count_nonzero(~self.fixed))

    @cached_property
    def signature(self) -> bytes:
        """Equal for two mechanisms whose joints, frames and start poses are equal."""
        t = self.table
        arrays = (
            t.first,
            t.second,
            t.first_point,
            t.second_point,
            t.first_angle,
            t.second_angle,
            t.radius,
            self.fixed,
            self.row_kernel,
            self.row_target,
            self.zero,
            self.resolved.poses,
            np.array([term for each in self.coupled for term in each.terms], dtype=float),
        )
        curves = [curve.key if curve is not None else b"" for curve in t.curves]
        runs = [
            repr((r.first, r.second, r.first_point, r.second_point, r.curve, r.target)).encode()
            for r in self.runs
        ]
        keys = [
            *curves,
            *runs,
            *(facing.key for facing in self.facings),
            repr(self.yields).encode(),
        ]
        return b"|".join([*(np.ascontiguousarray(a).tobytes() for a in arrays), *keys])

    @cached_property
    def runs(self) -> tuple[Touch, ...]:
        """The runs of belts and chains round wheels, all loops one after another."""
        return tuple(run for runs in self.belts for run in runs)

    @cached_property
    def belts(self) -> tuple[tuple[Touch, ...], ...]:
        """The runs of each belt or chain, by the wheels that they leave."""
        return belt_runs(self.resolved)

    @cached_property
    def facings(self) -> tuple[Facing, ...]:
        """What can touch what."""
        return facings(self.resolved)

    @cached_property
    def yields(self) -> tuple[tuple[int, float | None], ...]:
        """Joints that give way, and the value they return to as shown (rad or mm), None for
        those that stay where they are pushed."""
        return tuple(
            (k, None if joint.yields == "friction" else values.rest)
            for k, (joint, values) in enumerate(
                zip(self.resolved.document.joints, self.resolved.joints, strict=True)
            )
            if joint.yields is not None
        )

    @cached_property
    def polar(self) -> np.ndarray:
        """(K,) joints whose value is the direction of a pin seen from the centre of its arc."""
        kinds = [joint.kind for joint in self.resolved.document.joints]
        return np.array([value_kernel(kind) is Kernel.POLAR for kind in kinds], dtype=bool)

    @cached_property
    def period(self) -> Floats:
        """(K,) rad or mm after which a joint stands as before, though nothing else does; or 0.

        The value of such a joint is known up to that, and is counted on along a motion.
        """
        closed = np.array(
            [0.0 if c is None or not c.is_closed else c.length for c in self.table.curves]
        )
        return np.where(self.polar, 2 * np.pi, closed)

    @cached_property
    def _valued(self) -> tuple[tuple[Condition, Indices], ...]:
        """Conditions whose residuals are values of joints, and those joints."""
        kernels = np.array([value_kernel(j.kind) for j in self.resolved.document.joints], dtype=int)
        return tuple(
            (condition(Kernel(kernel)), np.flatnonzero(kernels == kernel))
            for kernel in np.unique(kernels).tolist()
        )

    def joint_index(self, joint_id: str) -> int:
        """Index of a joint by id."""
        return [j.id for j in self.resolved.document.joints].index(joint_id)

    def body_index(self, body_id: str) -> int:
        """Index of a body by id."""
        return [b.id for b in self.resolved.document.bodies].index(body_id)

    def values(self, poses: Floats) -> Floats:
        """(..., K) raw value of every joint, rad or mm, less its zero."""
        return self._values(frames(self.table, poses))

    def _values(self, at: Frames) -> Floats:
        raw = np.empty(at.turn.shape)
        for each, joints in self._valued:
            raw[..., joints] = each.residual(Rows(self.table, at, joints, 1.0))
        return np.asarray(raw - self.zero)

    def values_and_rates(
        self, poses: Floats, rates: Floats, seconds: Floats
    ) -> tuple[Floats, Floats, Floats]:
        """Raw value of every joint as `values`, and its first and second rates, (..., K) each."""
        at = frames(self.table, poses)
        first, second = np.empty(at.turn.shape), np.empty(at.turn.shape)
        for each, joints in self._valued:
            on = Rows(self.table, at, joints, 1.0)
            with np.errstate(divide="ignore", invalid="ignore"):
                first[..., joints] = each.moved(on, rates)
                second[..., joints] = each.moved(on, seconds) - each.quadratic(on, rates)
        return self._values(at), first, second


def compile_mechanism(resolved: Resolved, size: float | None = None) -> Mechanism:
    """Compile a resolved document; expects its names to be checked.

    ``size``: what angles are scaled by, its own if none is given; variants share one.
    """
    document = resolved.document
    moving = sum(not body.fixed for body in document.bodies)
    if moving > MOST_MOVING:
        raise ValueOutOfRangeError(
            f"{moving:,} of its bodies can move, {MOST_MOVING:,} are the most.",
            where=f"mechanism '{document.name}'",
            remedy="Fix or switch off what need not move, or split it into two documents.",
        )
    index = {body.id: i for i, body in enumerate(document.bodies)}
    fixed = np.array([body.fixed for body in document.bodies], dtype=bool)
    order = np.cumsum(~fixed) - 1
    column = np.where(fixed, 3 * np.count_nonzero(~fixed), 3 * order).astype(np.int64)
    sides = []
    for joint in document.joints:
        for side in (joint.first, joint.second):
            part = resolved.part_of(document.bodies[index[side.body]])
            sides.append((index[side.body], *part.places[side.place]))
    array = np.array(sides, dtype=float).reshape(-1, 2, 4)
    radius = np.ones(len(array))
    for k, joint in enumerate(document.joints):
        values = resolved.joints[k]
        spec = spec_of(joint.kind)
        if values.rod is not None:
            radius[k] = values.rod.length
        elif spec.has_radius and spec.is_pin:
            radius[k] = values.radius
        elif spec.has_radius:
            # It turns about the centre of the arc, which lies square to its own direction.
            outward = array[k, 1, 3] - values.twist - np.pi / 2
            array[k, 1, 1] -= values.radius * np.cos(outward)
            array[k, 1, 2] -= values.radius * np.sin(outward)
            array[k, 1, 3] = outward
        elif spec.has_curve:
            # Curves are given in the frame of their part.
            array[k, 0, 1:] = 0.0
    bent = bends(resolved)
    table = JointTable(
        array[:, 0, 0].astype(np.int64),
        array[:, 1, 0].astype(np.int64),
        array[:, 0, 1:3].copy(),
        array[:, 1, 1:3].copy(),
        array[:, 0, 3].copy(),
        array[:, 1, 3].copy(),
        radius,
        tuple(
            bent.get(k) or _curve(resolved, joint) or rod_between(resolved, k)
            for k, joint in enumerate(document.joints)
        ),
    )
    size = _characteristic_size(table, resolved) if size is None else size
    turn = frames(table, resolved.poses).turn
    rows = []
    for k, joint in enumerate(document.joints):
        values = resolved.joints[k]
        # Body angles run on through full turns, so the target joins the turn it is drawn in.
        full_turns = 2 * np.pi * np.round((turn[k] - values.twist) / (2 * np.pi))
        for kernel in rows_of(joint.kind):
            target = {
                Kernel.TURN: size * (values.twist + full_turns),
                Kernel.ACROSS: values.offset,
                Kernel.TRACK: values.offset,
                Kernel.TRACK_TURN: size * values.twist,
            }
            rows.append((int(kernel), k, target.get(kernel, 0.0)))
    coupled = couple(resolved, table, size)
    rows += [(int(Kernel.COUPLED), each.terms[0][0], each.target) for each in coupled]
    row_array = np.array(rows, dtype=float).reshape(-1, 3)
    return Mechanism(
        resolved=resolved,
        table=table,
        fixed=fixed,
        column=column,
        size=size,
        row_kernel=row_array[:, 0].astype(np.int64),
        row_joint=row_array[:, 1].astype(np.int64),
        row_target=row_array[:, 2].copy(),
        angular=np.array([spec_of(j.kind).is_angular for j in document.joints], dtype=bool),
        zero=np.array([v.zero for v in resolved.joints]),
        coupled=coupled,
    )


def _curve(resolved: Resolved, joint: Joint) -> Curve | None:
    if not spec_of(joint.kind).has_curve or joint.curve is None:
        return None
    body = resolved.document.body(joint.first.body)
    return resolved.part_of(body).curves[joint.curve]


def _characteristic_size(table: JointTable, resolved: Resolved) -> float:
    """Half the spread of all joint places, at least 1 mm: what angles are scaled by.

    With contacts at least as far as what touches reaches from the places it turns about: bodies
    on one shaft are no mechanism of no size.
    """
    if not len(table.first):
        return 1.0
    poses, document = resolved.poses, resolved.document
    at = frames(table, poses)
    points = np.concatenate(
        [poses[table.first, :2] + at.first_arm, poses[table.second, :2] + at.second_arm]
    )
    size = max(1.0, float(np.ptp(points, axis=0).max() / 2.0))
    if not document.contacts:
        return size
    named = {s.body for c in document.contacts for s in (c.first, c.second) if s is not None}
    reach = [
        float(np.hypot(*(slab.region.centre - point))) + slab.region.radius
        for body, pieces, joints, places in (
            (document.bodies[k], resolved.part_of(document.bodies[k]).slabs, side == k, points_)
            for side, points_ in (
                (table.first, table.first_point),
                (table.second, table.second_point),
            )
            for k in range(len(document.bodies))
        )
        if body.id in named
        for point in places[joints]
        for slab in pieces
    ]
    return max(size, max(reach, default=0.0) / 2.0)
