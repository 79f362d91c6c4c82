"""The constraint kernels: one per scalar condition that joints and drivers are made of.

Each kernel works on any leading batch axes and gives residual, partial derivatives, the
quadratic velocity term of its acceleration equation, and a bound on how fast its velocity
equation can change (for certified speeds). A joint kind is a list of kernels (`rows_of`).

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

Conditions on a curve are functions of along, across and turn: `anakinema.mechanism.fields`.
Polar is the angle of d seen from the first body, φ' = d × d' / d·d its rate less w1 added.
Derived in docs/methods.md, "Constraints"; each derivative is tested by complex step.
"""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.mechanism.fields import Bend, Field, Run, field
from anakinema.mechanism.frames import Frames, Indices, JointTable, apart_rates, perpendicular
from anakinema.mechanism.kernels import ANGLES, ON_CURVE, Kernel

BOUNDLESS = 1e12
"""So large a change that no bound on speeds can come of it, yet a number."""


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
    if kernel in ON_CURVE:
        values = [f.value.reshape(at.turn.shape[:-1]) for f in _fields(kernel, table, at, rows)]
        return _scale(kernel, size) * np.stack(values, axis=-1)
    direction = at.normal if kernel is Kernel.ACROSS else at.axis
    return _dot(direction[..., rows, :], at.apart[..., rows, :])


def _scale(kernel: Kernel, size: float) -> float:
    return size if kernel in ANGLES else 1.0


def _fields(kernel: Kernel, table: JointTable, at: Frames, rows: Indices) -> list[Field]:
    """The field of every row at all poses, their leading axes flattened."""
    out = []
    for row in rows.tolist():
        axis, apart = at.axis[..., row, :], at.apart[..., row, :]
        place = np.stack([_dot(axis, apart), _cross(axis, apart)], axis=-1).reshape(-1, 2)
        out.append(field(kernel, curve_of(table, row), place, at.turn[..., row].reshape(-1)))
    return out


def curve_of(table: JointTable, row: int) -> Curve | Bend | Run:
    """The curve that a row of a table is about."""
    curve = table.curves[row]
    assert curve is not None
    return curve


_PARTS = (Kernel.ALONG, Kernel.ACROSS, Kernel.TURN)


def _partials_on_curve(
    kernel: Kernel, table: JointTable, at: Frames, rows: Indices, size: float
) -> Floats:
    parts = [partials(part, table, at, rows, size) for part in _PARTS]
    parts[2] = parts[2] / size
    out = np.zeros(parts[0].shape)
    for k, each in enumerate(_fields(kernel, table, at, rows)):
        gradient = each.gradient.reshape(*at.turn.shape[:-1], 3)
        for i, part in enumerate(parts):
            out[..., k, :] += gradient[..., i, None] * part[..., k, :]
    return _scale(kernel, size) * out


def _quadratic_on_curve(
    kernel: Kernel, table: JointTable, at: Frames, rates: Floats, rows: Indices, size: float
) -> Floats:
    parts = [quadratic(part, table, at, rates, rows, size) for part in _PARTS]
    moving = apart_rates(table, at, rates)
    spin1, spin2 = rates[..., table.first, 2], rates[..., table.second, 2]
    axis, apart = at.axis, at.apart
    along = spin1 * _cross(axis, apart) + _dot(axis, moving)
    across = -spin1 * _dot(axis, apart) + _cross(axis, moving)
    velocity = np.stack([along, across, spin2 - spin1], axis=-1)[..., rows, :]
    out = np.zeros(parts[0].shape)
    for k, each in enumerate(_fields(kernel, table, at, rows)):
        lead = at.turn.shape[:-1]
        gradient, second = each.gradient.reshape(*lead, 3), each.second.reshape(*lead, 3, 3)
        pull = sum(gradient[..., i] * parts[i][..., k] for i in range(3))
        v = velocity[..., k, :]
        out[..., k] = pull - np.einsum("...i,...ij,...j->...", v, second, v)
    return _scale(kernel, size) * out


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
    if kernel in ON_CURVE:
        return _partials_on_curve(kernel, table, at, rows, size)
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
    if kernel in ON_CURVE:
        return _quadratic_on_curve(kernel, table, at, rates, rows, size)
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
    if kernel in ON_CURVE:
        known = [curve_of(table, row) for row in rows.tolist()]
        bends = [each.most_bend for each in known if isinstance(each, Bend)]
        if bends:
            return np.asarray(size * np.array(bends) * (spin1 + spin2) ** 2 * reach)
        runs = [each.across for each in known if isinstance(each, Run)]
        if runs:
            return _bound_on_run(np.array(runs), (spin1, spin2, moving, turning, apart), reach)
        curves = [each for each in known if not isinstance(each, Bend | Run)]
        speeds = (spin1, spin2, moving, turning, apart)
        if kernel is Kernel.SUPPORT:
            return _bound_on_support(np.array([c.least_curvature for c in curves]), speeds, reach)
        bend = np.array([c.most_curvature for c in curves])
        sharp = np.array([c.most_curvature_rate for c in curves])
        off = _off(table, at, rows)
        return _scale(kernel, size) * _bound_on_curve(kernel, bend, sharp, speeds, reach, off)
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


def _off(table: JointTable, at: Frames, rows: Indices) -> Floats:
    """(..., R) how far the second places are off their curves, either side."""
    offs = [
        np.abs(f.value).reshape(at.turn.shape[:-1]) for f in _fields(Kernel.TRACK, table, at, rows)
    ]
    return np.stack(offs, axis=-1)


def _bound_on_curve(
    kernel: Kernel,
    bend: Floats,
    sharp: Floats,
    speeds: tuple[Floats, ...],
    reach: Floats,
    off: Floats,
) -> Floats:
    """Change of J·v of a condition on a curve of curvature up to ``bend``.

    With V the most that the second place moves in the curve's frame and A the most that this
    velocity changes: |∇f| A + |∇²f| reach V², both at their largest.
    """
    there, change = _seen_from_first(speeds, reach)
    room = 1.0 - bend * (off + reach * there)
    with np.errstate(divide="ignore", invalid="ignore"):
        q = np.where(room > 0.05, 1.0 / room, np.inf)
        if kernel is Kernel.TRACK:
            steep, curved = np.ones_like(q), bend * q
        else:
            steep = q
            curved = 2 * q**2 * bend + q**3 * sharp * (off + reach * there)
            if kernel is Kernel.TRACK_TURN:
                steep, curved = bend * q, bend * curved + sharp * q**2
        bound = steep * change + curved * reach * there**2
    return np.asarray(np.where(np.isfinite(bound), bound, BOUNDLESS))


def _bound_on_run(across: Floats, speeds: tuple[Floats, ...], reach: Floats) -> Floats:
    """Change of J·v of a belt's run: its direction turns by what crosses it over its length.

    Seen from the plane the turns of both wheels only add, so however fast they run, they do not
    change it.
    """
    _, _, moving, turning, apart = speeds
    along = np.sqrt(np.maximum(apart**2 - across**2, 0.0)) - reach * moving
    with np.errstate(divide="ignore", invalid="ignore"):
        bound = turning + reach * moving**2 / np.where(along > 0, along, np.nan)
    return np.asarray(np.where(np.isfinite(bound), bound, BOUNDLESS))


def _seen_from_first(speeds: tuple[Floats, ...], reach: Floats) -> tuple[Floats, Floats]:
    """The most that a second place moves in the first's frame, and that this velocity changes."""
    spin1, _, moving, turning, apart = speeds
    farthest = apart + reach * moving
    there = moving + spin1 * farthest
    return there, turning + reach * spin1 * (2 * moving + spin1 * farthest)


def _bound_on_support(least_bend: Floats, speeds: tuple[Floats, ...], reach: Floats) -> Floats:
    """Change of J·v of a face on a convex curve: |∂²f/∂α²| is at most its radius of curvature."""
    there, change = _seen_from_first(speeds, reach)
    spin = speeds[0] + speeds[1]
    with np.errstate(divide="ignore", invalid="ignore"):
        radius = np.where(least_bend > 0, 1.0 / least_bend, np.inf)
        bound = change + reach * (2 * there * spin + radius * spin**2)
    return np.asarray(np.where(np.isfinite(bound), bound, BOUNDLESS))
