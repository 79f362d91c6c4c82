"""Involute wheels and racks as contours of lines and arcs.

Profile of ISO 53: addendum 1 m, dedendum 1.25 m, tip rounding of the rack 0.38 m (recalled from
memory). Flanks are involutes of the base circle; the root is the curve that the rounded tip of
the generating rack leaves, so that wheels of few teeth are undercut as they are when cut (F. L.
Litvin and A. Fuentes, Gear Geometry and Applied Theory, the generated root, from memory). Each
curve is stated in arcs through three of its points; they stand off by less than 1e-4 of the module,
which `test_gears` checks.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour, ContourBuilder, Floats

ADDENDUM, DEDENDUM, ROUNDING = 1.0, 1.25, 0.38
"""Shares of the module, ISO 53."""
FLANK_ARCS, ROOT_ARCS = 8, 4
FEWEST, MOST = 6, 400


@dataclass(frozen=True, slots=True)
class Wheel:
    """An involute wheel: module (mm), teeth, pressure angle (rad), profile shift (modules).

    backlash (mm) is taken off the tooth thickness at the pitch circle. ``internal`` makes it the
    opening of a ring: its spaces are as an external wheel's teeth.
    """

    module: float
    teeth: int
    pressure: float = math.radians(20.0)
    shift: float = 0.0
    backlash: float = 0.0
    internal: bool = False

    @property
    def pitch_radius(self) -> float:
        """mm; m z / 2."""
        return self.module * self.teeth / 2

    @property
    def base_radius(self) -> float:
        """mm; what the involute is unwound from."""
        return self.pitch_radius * math.cos(self.pressure)

    @property
    def tip_radius(self) -> float:
        """mm; where teeth of a wheel end, or the spaces of a ring."""
        reach = DEDENDUM if self.internal else ADDENDUM
        return self.pitch_radius + self.module * (reach + self.shift)

    @property
    def root_radius(self) -> float:
        """mm; the bottom of the spaces of a wheel, or the tips of a ring."""
        depth = ADDENDUM if self.internal else DEDENDUM
        return self.pitch_radius - self.module * (depth - self.shift)

    @property
    def half_tooth(self) -> float:
        """rad; half the tooth at the pitch circle, seen from the centre."""
        thick = self.module * (math.pi / 2 + 2 * self.shift * math.tan(self.pressure))
        thick += self.backlash if self.internal else -self.backlash
        return thick / (2 * self.pitch_radius)

    def half_angle(self, radius: float) -> float:
        """rad; half the tooth on its involute flanks at a radius from the base circle outwards."""
        at = math.acos(min(1.0, self.base_radius / radius))
        return self.half_tooth + involute(self.pressure) - involute(at)

    @property
    def is_undercut(self) -> bool:
        """Whether the rack cuts into the involute: fewer teeth than 2 (1 - x) / sin² of the
        pressure angle."""
        return not self.internal and self.teeth < undercut_limit(self.pressure, self.shift)


def involute(angle: float) -> float:
    """inv a = tan a - a, rad."""
    return math.tan(angle) - angle


def undercut_limit(pressure: float, shift: float = 0.0) -> float:
    """Teeth below which a rack of full depth undercuts: 2 (1 - x) / sin² a."""
    return 2 * (ADDENDUM - shift) / math.sin(pressure) ** 2


def contact_ratio(one: Wheel, two: Wheel, centres: float) -> float:
    """Teeth in mesh on average: the length of the line of action over the base pitch.

    ``centres`` : mm between the two axes; external wheels of one module.
    """
    working = math.acos((one.base_radius + two.base_radius) / centres)
    reach = sum(math.sqrt(w.tip_radius**2 - w.base_radius**2) for w in (one, two))
    pitch = math.pi * one.module * math.cos(one.pressure)
    return (reach - centres * math.sin(working)) / pitch


def centre_distance(one: Wheel, two: Wheel) -> float:
    """mm between the axes of two external wheels that mesh without play, whatever their shifts.

    inv w = 2 tan a (x1 + x2) / (z1 + z2) + inv a; the distance is m (z1 + z2) / 2 cos a / cos w.
    """
    total = one.teeth + two.teeth
    wanted = 2 * math.tan(one.pressure) * (one.shift + two.shift) / total + involute(one.pressure)
    angle = one.pressure
    for _ in range(50):
        angle -= (involute(angle) - wanted) / max(math.tan(angle) ** 2, 1e-12)
    return one.module * total / 2 * math.cos(one.pressure) / math.cos(angle)


def wheel_contour(wheel: Wheel, x: float, y: float, turned: float) -> Contour:
    """The outline of a wheel about x, y (mm), a tooth (of a ring: a space) along ``turned`` rad.

    Raises `GeometryError` for wheels that cannot be.
    """
    _check(wheel)
    flank = _flank(wheel)
    builder = ContourBuilder()
    step = 2 * math.pi / wheel.teeth
    tip, root = float(flank[-1, 0]), float(flank[0, 0])
    for k in range(wheel.teeth):
        middle = turned + k * step
        rising = [_at(x, y, r, middle - half) for r, half in flank.tolist()]
        falling = [_at(x, y, r, middle + half) for r, half in flank[::-1].tolist()]
        _arcs(builder, rising)
        half = float(flank[-1, 1])
        builder.arc((x, y), tip, middle - half, 2 * half)
        _arcs(builder, falling)
        half = float(flank[0, 1])
        builder.arc((x, y), root, middle + half, step - 2 * half)
    return builder.close()


def rack_contour(
    module: float, teeth: int, pressure: float, height: float, x: float, y: float, turned: float
) -> Contour:
    """A rack: ``teeth`` of them, the middle of the first at x, y on the pitch line, which runs
    along ``turned``; its body lies to the right of it, ``height`` mm deep below the pitch line."""
    if module <= 0 or not 1 <= teeth <= MOST or not 0.0 < pressure < math.radians(40):
        raise GeometryError(
            "a rack needs a module above 0, 1 tooth or more and a pressure angle of 0 to 40°.",
            where="outline",
            remedy="Correct its numbers.",
        )
    depth, top = DEDENDUM * module, ADDENDUM * module
    if height <= depth:
        raise GeometryError(
            f"its height {height:g} mm leaves nothing under the teeth.",
            where="outline",
            remedy=f"Give it more than {depth:g} mm.",
        )
    pitch, slope = math.pi * module, math.tan(pressure)
    points = [(-pitch / 2, -height)]
    end = (teeth - 0.5) * pitch
    points += [(end, -height), (end, -depth)]
    for k in reversed(range(teeth)):
        middle, half = k * pitch, pitch / 4
        points += [
            (middle + half + depth * slope, -depth),
            (middle + half - top * slope, top),
            (middle - half + top * slope, top),
            (middle - half - depth * slope, -depth),
        ]
    points.append((-pitch / 2, -depth))
    c, s = math.cos(turned), math.sin(turned)
    placed = [(x + c * px - s * py, y + s * px + c * py) for px, py in points]
    builder = ContourBuilder()
    for one, two in zip(placed, [*placed[1:], placed[0]], strict=True):
        builder.line(one, two)
    return builder.close()


def _check(wheel: Wheel) -> None:
    where = "outline"
    if not wheel.module > 0:
        raise GeometryError(
            f"its module is {wheel.module:g} mm.", where=where, remedy="For instance 2 mm."
        )
    if not FEWEST <= wheel.teeth <= MOST:
        raise GeometryError(
            f"a wheel of {wheel.teeth} teeth is not made.",
            where=where,
            remedy=f"Give it {FEWEST} to {MOST}.",
        )
    if not math.radians(10) <= wheel.pressure <= math.radians(35):
        raise GeometryError(
            f"a pressure angle of {math.degrees(wheel.pressure):g}° is not used.",
            where=where,
            remedy="Give it 10 to 35°; 20° is usual.",
        )
    if wheel.half_angle(wheel.tip_radius) <= 0:
        raise GeometryError(
            "its teeth come to a point below their tips.",
            where=where,
            remedy="Give it less profile shift, or more teeth.",
        )
    if wheel.root_radius <= 0:
        raise GeometryError(
            "nothing is left of it inside its teeth.", where=where, remedy="Give it more teeth."
        )


def _flank(wheel: Wheel) -> Floats:
    """(2 n + 1, 2): radius (mm) and half angle (rad) of points up a flank, root first.

    Every second point is the end of an arc, those between are its middles.
    """
    low = wheel.root_radius
    if wheel.internal:
        start = max(low, wheel.base_radius)
        rows = _involute_rows(wheel, start)
        if start > low + 1e-9:
            half = wheel.half_angle(start)
            straight = [(low, half), ((low + start) / 2, half)]
            rows = np.concatenate([np.array(straight), rows])
        return rows
    joint, rolls = form_radius(wheel), _rolls(wheel)
    last = np.interp(joint, _generated_root(wheel, rolls)[:, 0], rolls)
    below = _generated_root(wheel, np.linspace(0.0, float(last), 2 * ROOT_ARCS + 1))
    above = _involute_rows(wheel, joint)
    return np.concatenate([below[:-1], above])


def _involute_rows(wheel: Wheel, low: float) -> Floats:
    """Points of the involute from a radius to the tip, evenly spaced by the angle it is unwound by,
    which its radius of curvature grows with."""
    base = wheel.base_radius
    first, last = (math.sqrt(max(0.0, (r / base) ** 2 - 1)) for r in (low, wheel.tip_radius))
    unwound = first + (last - first) * np.linspace(0.0, 1.0, 2 * FLANK_ARCS + 1)
    radii = base * np.sqrt(1 + unwound**2)
    radii[0] = low
    return np.array([(r, wheel.half_angle(r)) for r in radii.tolist()])


def _rolls(wheel: Wheel) -> Floats:
    return np.linspace(0.0, 1.6, 400) * wheel.module


def _generated_root(wheel: Wheel, rolls: Floats) -> Floats:
    """(N, 2) radius and half angle of the root curve after the rack has rolled on by (N,) mm.

    The centre of the rack's tip rounding lies below its pitch line; while the pitch line rolls on
    the pitch circle, the wheel is cut at the point of the rounding that faces away from the pitch
    point.
    """
    m, r = wheel.module, wheel.pitch_radius
    deep = m * (DEDENDUM - ROUNDING - wheel.shift)
    # Beside the middle of the space: the flank of the rack, its rounding inside it.
    half_space = math.pi * m / 4 + wheel.backlash / 2
    slope, ahead = math.tan(wheel.pressure), math.cos(wheel.pressure)
    across = half_space - (m * (DEDENDUM - ROUNDING)) * slope - ROUNDING * m / ahead
    # Seen from the pitch point, x along the pitch line, y towards the wheel's centre.
    dx, dy = rolls, np.full_like(rolls, deep)
    away = np.hypot(dx, dy)
    px, py = dx * (1 + ROUNDING * m / away), dy * (1 + ROUNDING * m / away)
    turn = (across - rolls) / r
    radius = np.hypot(px, r - py)
    # Angle from the middle of the space to the cut point, in the wheel.
    angle = turn + np.arctan2(px, r - py)
    return np.column_stack([radius, math.pi / wheel.teeth - angle])


def form_radius(wheel: Wheel) -> float:
    """mm; where the involute of an external wheel begins.

    Without undercut, where the end of the rack's straight flank cuts it; with undercut, where the
    root curve crosses it, at the base circle or above.
    """
    m, r, a = wheel.module, wheel.pitch_radius, wheel.pressure
    # Depth of the end of the straight flank below the pitch line.
    deep = m * (DEDENDUM - ROUNDING + ROUNDING * math.sin(a) - wheel.shift)
    unwound = r * math.sin(a) - deep / math.sin(a)
    if unwound > 0:
        return math.hypot(wheel.base_radius, unwound)
    root = _generated_root(wheel, _rolls(wheel))
    start = max(wheel.base_radius, float(root[0, 0])) + 1e-9
    radii = np.linspace(start, wheel.tip_radius, 600)
    flank = np.array([wheel.half_angle(radius) for radius in radii.tolist()])
    deeper = np.flatnonzero(np.interp(radii, root[:, 0], root[:, 1]) >= flank)
    return float(radii[deeper[0]]) if len(deeper) else start


def _at(x: float, y: float, radius: float, angle: float) -> tuple[float, float]:
    return x + radius * math.cos(angle), y + radius * math.sin(angle)


def _arcs(builder: ContourBuilder, points: list[tuple[float, float]]) -> None:
    """Arcs through every three points, the last of one the first of the next."""
    for k in range(0, len(points) - 2, 2):
        one, middle, two = points[k : k + 3]
        chord = math.dist(one, two)
        across = (two[0] - one[0]) * (middle[1] - one[1]) - (two[1] - one[1]) * (middle[0] - one[0])
        # The sagitta at the middle of the chord, from a point that may lie beside it.
        along = (
            (middle[0] - one[0]) * (two[0] - one[0]) + (middle[1] - one[1]) * (two[1] - one[1])
        ) / chord**2
        height = across / chord
        if chord < 1e-9 or abs(height) < 1e-12:
            builder.line(one, two)
            continue
        # Circle through the three: with p along the chord and h beside it, r² follows.
        p, h, half = along * chord - chord / 2, height, chord / 2
        centre = (p * p + h * h - half * half) / (2 * h)
        bulge = (math.hypot(half, centre) - abs(centre)) / half
        builder.bulged(one, two, -math.copysign(bulge, h))
