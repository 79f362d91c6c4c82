"""What of a mechanism changes with its sizes while its structure stays, perhaps for many at once.

Structure is which bodies and joints there are and what equations they give; numbers are where
places are, what the right-hand sides are, and where fixed bodies stand. Numbers of V variants have
leading axes (V, 1), so that frames and conditions broadcast over variants and poses (V, N).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism


@dataclass(frozen=True, slots=True, eq=False)
class Numbers:
    """Numbers of a mechanism with leading axes (...), see `JointTable` and `Mechanism`.

    poses : (..., B, 3) as drawn; those of fixed bodies count.
    """

    first_point: Floats
    second_point: Floats
    first_angle: Floats
    second_angle: Floats
    radius: Floats
    row_target: Floats
    zero: Floats
    poses: Floats


def numbers_of(mechanism: Mechanism) -> Numbers:
    """The numbers of one mechanism, without leading axes."""
    table = mechanism.table
    return Numbers(
        table.first_point,
        table.second_point,
        table.first_angle,
        table.second_angle,
        table.radius,
        mechanism.row_target,
        mechanism.zero,
        mechanism.resolved.poses,
    )


def together(variants: Sequence[Mechanism]) -> Numbers:
    """Numbers (V, 1, ...) of mechanisms of one structure, compiled with one size."""
    each = [numbers_of(mechanism) for mechanism in variants]
    return Numbers(
        *(np.stack([getattr(n, field.name) for n in each])[:, None] for field in fields(Numbers))
    )


def with_numbers(mechanism: Mechanism, numbers: Numbers) -> Mechanism:
    """The same structure with other numbers: what batches of poses are asked of.

    What follows from the document (contacts, belts, curves) stays that of ``mechanism``.
    """
    table = replace(
        mechanism.table,
        first_point=numbers.first_point,
        second_point=numbers.second_point,
        first_angle=numbers.first_angle,
        second_angle=numbers.second_angle,
        radius=numbers.radius,
    )
    return replace(mechanism, table=table, row_target=numbers.row_target, zero=numbers.zero)


def same_structure(one: Mechanism, other: Mechanism) -> bool:
    """Whether two mechanisms have the same bodies, joints, equations and program stages."""
    program, old = one.resolved.program, other.resolved.program
    return (
        len(one.fixed) == len(other.fixed)
        and bool((one.fixed == other.fixed).all())
        and np.array_equal(one.row_kernel, other.row_kernel)
        and np.array_equal(one.row_joint, other.row_joint)
        and program.joints == old.joints
        and len(program.stages) == len(old.stages)
    )


def only_numbers_differ(one: Mechanism, other: Mechanism) -> bool:
    """Whether two mechanisms of one structure differ in nothing but `Numbers`: in no curve, no run
    of a belt and no factor of a coupling, which are not among them."""

    def rest(mechanism: Mechanism) -> tuple[object, ...]:
        curves = [None if c is None else c.key for c in mechanism.table.curves]
        return curves, mechanism.runs, [each.terms for each in mechanism.coupled]

    return same_structure(one, other) and one.size == other.size and rest(one) == rest(other)
