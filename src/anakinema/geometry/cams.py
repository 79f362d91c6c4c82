"""Cams: the exact profile for a lift and a follower, and what is to be known of it.

The cam turns anticlockwise about the origin. A translating follower moves up along x = offset; a
swinging one has its pivot at (centres, 0), its arm to the upper left, and is lifted clockwise.
With T the roller's centre at the cam's angle θ the pitch curve is T turned back by θ; a flat face
n·X = h turned back has the profile as its envelope. Pressure angle: between the way the follower
is pushed and the way it goes. R. L. Norton, Cam Design and Manufacturing Handbook (formulas from
memory, derived anew in docs/methods.md, "Cams").
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Floats
from anakinema.geometry.lift import FULL_TURN, Lift
from anakinema.geometry.offset import Envelope, Offset
from anakinema.geometry.spline import Spline, hermite

NODES = 720
"""Pieces of a turn, at least, in which a profile is stated."""
LOOKS = 3600
MOST_BASE = 1e4


@dataclass(frozen=True, slots=True)
class Follower:
    """What rides on a cam. ``radius`` mm of a roller or round face, 0 of a knife edge.

    Translating: its axis at x = ``offset``. Swinging: pivot ``centres`` mm from the cam, ``arm``
    mm to the roller; of a flat face ``offset`` is how far it lies before the pivot.
    """

    is_flat: bool = False
    radius: float = 0.0
    is_swinging: bool = False
    offset: float = 0.0
    arm: float = 0.0
    centres: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)
class CamTable:
    """A cam over its angles (N,) rad: lift (N, 4) with derivatives, pressure angle (N,) rad, and
    radius of curvature (N,) mm of the profile, below zero where it is hollow.

    reach : (N,) mm, how far the touch on a flat face lies from the follower's axis.
    """

    angle: Floats
    lift: Floats
    pressure: Floats
    radius: Floats
    reach: Floats


def cam_table(lift: Lift, base: float, follower: Follower, count: int = LOOKS) -> CamTable:
    """The cam at even steps. Raises `GeometryError` if the follower cannot stand on its base."""
    angle = FULL_TURN * np.arange(count + 1) / count
    known = lift.at(angle)
    if follower.is_flat:
        return _flat_table(angle, known, base, follower)
    centre, first, second = _centre(known, base, follower)
    along, bend = first - _left(centre), second - 2 * _left(first) - centre
    out = _left(along) / np.hypot(*along.T)[:, None]
    way = _way(known, base, follower)
    pressure = np.arctan2(_cross(way, out), np.sum(way * out, axis=1))
    with np.errstate(divide="ignore"):
        pitch = -(np.hypot(*along.T) ** 3) / _cross(along, bend)
    return CamTable(angle, known, pressure, pitch - follower.radius, np.zeros(len(angle)))


def pitch_curve(lift: Lift, base: float, follower: Follower) -> Spline:
    """The way of a roller's centre about the cam, anticlockwise; raises `GeometryError`."""
    angles, low, high = _nodes(lift)
    rows = []
    for at, before in ((low, False), (high, True)):
        known = lift.at(at, before=before)
        centre, first, second = _centre(known, base, follower)
        along, bend = first - _left(centre), second - 2 * _left(first) - centre
        # Stated by the angle turned back, so that it runs anticlockwise.
        rows.append(np.stack([_back(centre, at), -_back(along, at), _back(bend, at)], axis=1))
    parameter = -angles[::-1]
    # Run backwards, each piece begins where it ended.
    poly = hermite(parameter, rows[1][::-1], rows[0][::-1])
    bends = np.sort(np.where(lift.bends == 0.0, -FULL_TURN, -lift.bends))
    return Spline(poly, parameter, is_closed=True, bends=bends)


def check_followable(table: CamTable, base: float, follower: Follower) -> None:
    """Raises `GeometryError` with a way out if the profile would be undercut or hollow."""
    if follower.is_flat:
        least = float(table.radius.min())
        if least <= 0:
            raise GeometryError(
                "a flat face cannot follow it: its profile would be hollow or come to a point.",
                where="cam",
                remedy=f"Give a base radius above {base - least:.5g} mm, or a gentler lift.",
            )
        return
    convex = table.radius[table.radius + follower.radius > 0]
    if follower.radius and len(convex) and float(convex.min()) <= 0:
        most = float(convex.min()) + follower.radius
        raise GeometryError(
            f"it is undercut: a round of {follower.radius:.5g} mm cannot follow it.",
            where="cam",
            remedy=f"Give a round below {most:.5g} mm, a larger base or a gentler lift.",
        )


def rings(table: CamTable, base: float, follower: Follower) -> tuple[Floats, Floats | None]:
    """Points (N, 2) of a profile and of the way of a round's centre, to draw them by."""
    if follower.is_flat:
        height, turn = _face(table.lift, table.angle, base, follower)
        h, normal = _by_normal(height, turn), turn[:, 0]
        c, s = np.cos(normal), np.sin(normal)
        return np.stack([h[:, 0] * c - h[:, 1] * s, h[:, 0] * s + h[:, 1] * c], axis=1), None
    centre, first, _ = _centre(table.lift, base, follower)
    along = first - _left(centre)
    out = _left(along) / np.hypot(*along.T)[:, None]
    path = _back(centre, table.angle)
    return path - follower.radius * _back(out, table.angle), path


def profile(lift: Lift, base: float, follower: Follower, beyond: float = 0.0) -> Offset | Envelope:
    """The exact outline of a cam, or the curve ``beyond`` mm farther out.

    Raises `GeometryError` if the follower cannot follow it: undercut, or too small a base.
    """
    check_followable(cam_table(lift, base, follower), base, follower)
    if follower.is_flat:
        return _envelope(lift, base, follower).grown(beyond)
    return Offset(pitch_curve(lift, base, follower), follower.radius - beyond)


def smallest_base(
    lift: Lift, follower: Follower, pressure: float | None, radius: float | None
) -> float | None:
    """Least base radius (mm) with pressure angles up to ``pressure`` (rad) and no convex radius
    of curvature below ``radius`` (mm); None if none up to 10 m does."""

    def fits(base: float) -> bool:
        try:
            table = cam_table(lift, base, follower)
        except GeometryError:
            return False
        if pressure is not None and float(np.abs(table.pressure).max()) > pressure:
            return False
        if follower.is_flat:
            return float(table.radius.min()) >= (radius or 0.0)
        convex = table.radius[table.radius + follower.radius > 0]
        return float(convex.min(initial=math.inf)) >= (radius or 0.0)

    low = 1e-3
    if fits(low):
        return low
    high = max(1.0, lift.span if not follower.is_swinging else follower.centres / 20)
    while not fits(high):
        low, high = high, high * 1.25
        if high > MOST_BASE:
            return None
    for _ in range(60):
        middle = (low + high) / 2
        if fits(middle):
            high = middle
        else:
            low = middle
    return high


def start_angle(base: float, follower: Follower) -> float:
    """rad, of a swinging follower's arm or face at no lift; raises `GeometryError`."""
    c, a = follower.centres, follower.arm
    if follower.is_flat:
        sine = (base - follower.offset) / c if c > 0 else math.inf
        if not abs(sine) < 1:
            raise _too_far("The face passes the base circle by.")
        return math.pi - math.asin(sine)
    prime = base + follower.radius
    cosine = (c * c + a * a - prime * prime) / (2 * c * a) if c > 0 and a > 0 else math.inf
    if not abs(cosine) < 1:
        raise _too_far("The arm does not reach the base circle.")
    return math.pi - math.acos(cosine)


def _too_far(what: str) -> GeometryError:
    return GeometryError(what, where="cam", remedy="Change the arm, the centres or the base.")


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])


def _left(vectors: Floats) -> Floats:
    return np.stack([-vectors[:, 1], vectors[:, 0]], axis=1)


def _back(vectors: Floats, angle: Floats) -> Floats:
    """Vectors turned back by angles (N,)."""
    c, s = np.cos(angle), np.sin(angle)
    x, y = vectors.T
    return np.stack([c * x + s * y, -s * x + c * y], axis=1)


def _centre(known: Floats, base: float, follower: Follower) -> tuple[Floats, Floats, Floats]:
    """Place of the roller's centre and its first two derivatives, (N, 2) each."""
    s, v, a, _ = known.T
    nothing = np.zeros_like(s)
    if not follower.is_swinging:
        square = (base + follower.radius) ** 2 - follower.offset**2
        if base <= 0 or square <= 0:
            raise GeometryError(
                f"its base circle of {base:.5g} mm does not reach the follower's axis.",
                where="cam",
                remedy=f"Give it more than {abs(follower.offset):.5g} mm.",
            )
        height = math.sqrt(square) + s
        if float(height.min()) <= 0:
            raise GeometryError(
                "the follower would sink to the shaft.",
                where="cam",
                remedy="Give a larger base, or a lift that does not fall so far below it.",
            )
        offset = np.full_like(s, follower.offset)
        pairs = ((offset, height), (nothing, v), (nothing, a))
    else:
        angle = start_angle(base, follower) - s
        c, d = follower.arm * np.cos(angle), follower.arm * np.sin(angle)
        pairs = ((follower.centres + c, d), (v * d, -v * c), (a * d - v**2 * c, -a * c - v**2 * d))
    one, two, three = (np.stack(pair, axis=1) for pair in pairs)
    return one, two, three


def _way(known: Floats, base: float, follower: Follower) -> Floats:
    """(N, 2) unit vectors along which the follower's centre is lifted."""
    if not follower.is_swinging:
        return np.tile([0.0, 1.0], (len(known), 1))
    angle = start_angle(base, follower) - known[:, 0]
    return np.stack([np.sin(angle), -np.cos(angle)], axis=1)


def _nodes(lift: Lift) -> tuple[Floats, Floats, Floats]:
    """Angles (N + 1,) that cut a turn finely, at breaks among others, and beginnings and ends."""
    cuts = [
        np.linspace(one, two, max(2, math.ceil(NODES * (two - one) / FULL_TURN)) + 1)[:-1]
        for one, two in zip(lift.breaks, lift.breaks[1:], strict=False)
    ]
    angles = np.append(np.concatenate(cuts), FULL_TURN)
    return angles, angles[:-1], angles[1:]


def _face(known: Floats, angle: Floats, base: float, follower: Follower) -> tuple[Floats, Floats]:
    """Of a flat face its distance h (N, 3) from the shaft and its normal's angle α (N, 3) on the
    cam, each with two derivatives by the cam's angle."""
    s, v, a, _ = known.T
    if not follower.is_swinging:
        turn = np.stack([math.pi / 2 - angle, -np.ones_like(s), np.zeros_like(s)], axis=1)
        return np.stack([base + s, v, a], axis=1), turn
    arm = start_angle(base, follower) - s
    c, d = follower.centres * np.cos(arm), follower.centres * np.sin(arm)
    height = np.stack([d + follower.offset, -c * v, -d * v**2 - c * a], axis=1)
    return height, np.stack([arm - math.pi / 2 - angle, -v - 1.0, -a], axis=1)


def _by_normal(height: Floats, turn: Floats) -> Floats:
    """(N, 3) h and its derivatives by α."""
    slope = height[:, 1] / turn[:, 1]
    bend = (height[:, 2] * turn[:, 1] - height[:, 1] * turn[:, 2]) / turn[:, 1] ** 3
    return np.stack([height[:, 0], slope, bend], axis=1)


def _flat_table(angle: Floats, known: Floats, base: float, follower: Follower) -> CamTable:
    height, turn = _face(known, angle, base, follower)
    if float(turn[:, 1].max()) >= 0:
        raise GeometryError(
            "the face swings faster than the cam turns.", where="cam", remedy="Give a gentler lift."
        )
    h = _by_normal(height, turn)
    radius = h[:, 0] + h[:, 2]
    if not follower.is_swinging:
        return CamTable(angle, known, np.zeros(len(angle)), radius, known[:, 1].copy())
    # Where it touches, along the face from the foot of the pivot; it is pushed square to the face.
    normal = turn[:, 0] + angle
    pivot = np.stack([follower.centres * np.cos(normal), -follower.centres * np.sin(normal)], 1)
    reach = -(h[:, 1] - pivot[:, 1])
    pressure = np.arctan2(np.full(len(angle), -follower.offset), np.abs(reach))
    return CamTable(angle, known, pressure, radius, np.abs(reach))


def _envelope(lift: Lift, base: float, follower: Follower) -> Envelope:
    angles, low, high = _nodes(lift)
    rows = []
    for at, before in ((low, False), (high, True)):
        rows.append(_by_normal(*_face(lift.at(at, before=before), at, base, follower)))
    known = lift.at(np.minimum(angles, FULL_TURN), before=False)
    known[-1] = lift.at(np.array([FULL_TURN]), before=True)[0]
    parameter = _face(known, angles, base, follower)[1][::-1, 0]
    bent = np.isin(angles, lift.bends)
    bends = _face(known, angles, base, follower)[1][bent, 0][::-1]
    height = hermite(parameter, rows[1][::-1], rows[0][::-1])
    return Envelope(height, float(parameter[0]), bends)
