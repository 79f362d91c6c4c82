"""The constraint kernels: one per scalar condition that joints and drivers are made of.

Each kernel works on any leading batch axes and gives residual, partial derivatives, the
quadratic velocity term of its acceleration equation, and a bound on how fast its velocity
equation can change (for certified speeds). A joint kind is a list of kernels (`KIND_ROWS`).

With d = `Frames.apart`, u = `Frames.axis`, n = u turned left, and for body rates (v, w):

==========  ==========================  =====================================================
kernel      residual                    quadratic term g, so that J a = g + target''
==========  ==========================  =====================================================
apart x, y  d                           w2² arm2 − w1² arm1
turn        size (turn − target)        0
across      n·d − target                w1² n·d + 2 w1 u·d' + n·(w2² arm2 − w1² arm1)
along       u·d − target                w1² u·d − 2 w1 n·d' + u·(w2² arm2 − w1² arm1)
circle      (d·d / R − R) / 2           (d·(w2² arm2 − w1² arm1) − d'·d') / R
polar       size (angle of d − target)  size (d × (w2² arm2 − w1² arm1) + 2 d·d' φ') / d·d
==========  ==========================  =====================================================

Polar is the angle of d seen from the first body, φ' = d × d' / d·d its rate less w1 added.
Derived in docs/methods.md, "Constraints"; each derivative is tested by complex step.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import IntEnum

import numpy as np

from anakinema.document.model import JointKind
from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Frames, Indices, JointTable, apart_rates, perpendicular


class Kernel(IntEnum):
    """A scalar condition between the two sides of a joint."""

    APART_X = 0
    APART_Y = 1
    TURN = 2
    ACROSS = 3
    ALONG = 4
    CIRCLE = 5
    POLAR = 6
    COUPLED = 7
    """Of no joint alone: a combination of value rows, see `anakinema.mechanism.coupled`."""


BOUNDLESS = 1e12
"""So large a change that no bound on speeds can come of it, yet a number."""

KIND_ROWS: Mapping[JointKind, tuple[Kernel, ...]] = {
    "rigid": (Kernel.APART_X, Kernel.APART_Y, Kernel.TURN),
    "revolute": (Kernel.APART_X, Kernel.APART_Y),
    "prismatic": (Kernel.TURN, Kernel.ACROSS),
    "pin_in_slot": (Kernel.ACROSS,),
    "pin_on_arc": (Kernel.CIRCLE,),
    "block_on_arc": (Kernel.APART_X, Kernel.APART_Y),
}
"""Conditions that each kind of joint imposes."""

VALUE_KERNEL: Mapping[JointKind, Kernel] = {
    "rigid": Kernel.TURN,
    "revolute": Kernel.TURN,
    "prismatic": Kernel.ALONG,
    "pin_in_slot": Kernel.ALONG,
    "pin_on_arc": Kernel.POLAR,
    "block_on_arc": Kernel.TURN,
}
"""Condition whose residual is the value of a joint, the one that a driver commands."""


def _dot(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1])


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def polar_angle(at: Frames) -> Floats:
    """(..., K) rad: direction from the first place to the second, seen from the first."""
    return np.asarray(np.arctan2(_cross(at.axis, at.apart), _dot(at.axis, at.apart)))


def residual(kernel: Kernel, table: JointTable, at: Frames, rows: Indices, size: float) -> Floats:
    """(..., R) mm: the condition's value for the joints ``rows``, target not yet subtracted."""
    if kernel is Kernel.APART_X:
        return at.apart[..., rows, 0]
    if kernel is Kernel.APART_Y:
        return at.apart[..., rows, 1]
    if kernel is Kernel.TURN:
        return size * at.turn[..., rows]
    if kernel is Kernel.CIRCLE:
        apart, radius = at.apart[..., rows, :], table.radius[rows]
        return np.asarray((_dot(apart, apart) / radius - radius) / 2)
    if kernel is Kernel.POLAR:
        return size * polar_angle(at)[..., rows]
    direction = at.normal if kernel is Kernel.ACROSS else at.axis
    return _dot(direction[..., rows, :], at.apart[..., rows, :])


def partials(kernel: Kernel, table: JointTable, at: Frames, rows: Indices, size: float) -> Floats:
    """(..., R, 6) derivatives by (x, y, size·angle) of the first body, then of the second."""
    arm1, arm2 = at.first_arm[..., rows, :], at.second_arm[..., rows, :]
    out = np.zeros((*arm1.shape[:-1], 6))
    if kernel in (Kernel.APART_X, Kernel.APART_Y):
        axis = int(kernel)
        sign = 1.0 if axis == 0 else -1.0
        out[..., axis] = -1.0
        out[..., 3 + axis] = 1.0
        out[..., 2] = sign * arm1[..., 1 - axis] / size
        out[..., 5] = -sign * arm2[..., 1 - axis] / size
        return out
    if kernel is Kernel.TURN:
        out[..., 2] = -1.0
        out[..., 5] = 1.0
        return out
    axis_vector, normal = at.axis[..., rows, :], at.normal[..., rows, :]
    apart = at.apart[..., rows, :]
    if kernel is Kernel.CIRCLE:
        direction, swing = apart / table.radius[rows][:, None], np.zeros(apart.shape[:-1])
    elif kernel is Kernel.POLAR:
        direction = perpendicular(apart) * (size / _dot(apart, apart))[..., None]
        swing = np.full(apart.shape[:-1], -size)
    elif kernel is Kernel.ACROSS:
        direction, swing = normal, -_dot(axis_vector, apart)
    else:
        direction, swing = axis_vector, _dot(normal, apart)
    out[..., 0:2] = -direction
    out[..., 2] = (swing - _dot(direction, perpendicular(arm1))) / size
    out[..., 3:5] = direction
    out[..., 5] = _dot(direction, perpendicular(arm2)) / size
    return out


def quadratic(
    kernel: Kernel, table: JointTable, at: Frames, rates: Floats, rows: Indices, size: float
) -> Floats:
    """(..., R) the velocity term of the acceleration equation at body rates (..., B, 3)."""
    spin1 = rates[..., table.first[rows], 2]
    spin2 = rates[..., table.second[rows], 2]
    if kernel is Kernel.TURN:
        return np.zeros(spin1.shape)
    pull = (
        spin2[..., None] ** 2 * at.second_arm[..., rows, :]
        - spin1[..., None] ** 2 * at.first_arm[..., rows, :]
    )
    if kernel in (Kernel.APART_X, Kernel.APART_Y):
        return np.asarray(pull[..., int(kernel)])
    apart = at.apart[..., rows, :]
    moving = apart_rates(table, at, rates)[..., rows, :]
    if kernel is Kernel.CIRCLE:
        return np.asarray((_dot(apart, pull) - _dot(moving, moving)) / table.radius[rows])
    if kernel is Kernel.POLAR:
        square = _dot(apart, apart)
        turning = 2 * _dot(apart, moving) * _cross(apart, moving) / square
        return np.asarray(size * (_cross(apart, pull) + turning) / square)
    axis, normal = at.axis[..., rows, :], at.normal[..., rows, :]
    if kernel is Kernel.ACROSS:
        return spin1**2 * _dot(normal, apart) + 2 * spin1 * _dot(axis, moving) + _dot(normal, pull)
    return spin1**2 * _dot(axis, apart) - 2 * spin1 * _dot(normal, moving) + _dot(axis, pull)


def change_bound(
    kernel: Kernel,
    table: JointTable,
    at: Frames,
    most: Floats,
    reach: Floats,
    rows: Indices,
    size: float,
) -> Floats:
    """(..., R) how far J(q)·v can differ from J(q0)·v while the program moves by ``reach``.

    ``most`` (..., B, 3) bounds |v| of every body over that stretch, ``reach`` (...) is its
    length on either side of q0. Proof in docs/methods.md, "Certified speeds".
    """
    reach = np.asarray(reach)[..., None]
    spin1 = most[..., table.first[rows], 2]
    spin2 = most[..., table.second[rows], 2]
    if kernel is Kernel.TURN:
        return np.zeros(np.broadcast_shapes(spin1.shape, reach.shape))
    arm1 = np.hypot(*np.moveaxis(table.first_point[rows], -1, 0))
    arm2 = np.hypot(*np.moveaxis(table.second_point[rows], -1, 0))
    turning = reach * (arm1 * spin1**2 + arm2 * spin2**2)
    if kernel in (Kernel.APART_X, Kernel.APART_Y):
        return np.asarray(turning)
    speed1 = np.hypot(most[..., table.first[rows], 0], most[..., table.first[rows], 1])
    speed2 = np.hypot(most[..., table.second[rows], 0], most[..., table.second[rows], 1])
    moving = speed1 + speed2 + spin1 * arm1 + spin2 * arm2
    apart = np.hypot(at.apart[..., rows, 0], at.apart[..., rows, 1])
    if kernel is Kernel.CIRCLE:
        radius, farthest = table.radius[rows], apart + reach * moving
        return np.asarray((reach * moving**2 + farthest * turning) / radius)
    if kernel is Kernel.POLAR:
        # Of d × d' / d·d: d' turns by ``turning`` while d itself moves and turns.
        nearest = np.maximum(apart - reach * moving, 0.0)
        with np.errstate(divide="ignore", invalid="ignore"):
            swing = turning / nearest + 2 * reach * (moving / nearest) ** 2
        # Where the pin might reach the centre, nothing bounds how fast its direction turns.
        return np.asarray(size * np.where(nearest > 0, swing, BOUNDLESS))
    return np.asarray(reach * spin1 * (spin1 * apart + 2 * moving) + turning)
