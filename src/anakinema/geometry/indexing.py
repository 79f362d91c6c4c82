"""Outlines that index: ratchet wheels, Geneva wheels with their locking discs, sprockets.

Geneva: with centres C apart and n slots the crank is C sin(180/n), so that its pin enters and
leaves along a slot. Sprocket: ISO 606 tooth form (recalled from memory): pitch circle
p / sin(180/z), seat 0.505 d, seat angle 140 - 90/z degrees, flank 0.12 d (z + 2), tips
d_p + p (1 - 1.6/z) - d at the least and d_p + 1.25 p - d at the most; the middle is taken.
"""

from __future__ import annotations

import math

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour, ContourBuilder

MOST = 400
Point = tuple[float, float]


def _at(x: float, y: float, radius: float, angle: float) -> Point:
    return x + radius * math.cos(angle), y + radius * math.sin(angle)


def _wrong(what: str, remedy: str) -> GeometryError:
    return GeometryError(what, where="outline", remedy=remedy)


def ratchet_contour(
    teeth: int,
    tip: float,
    root: float,
    lean: float,
    x: float,
    y: float,
    turned: float,
    is_reversed: bool,
) -> Contour:
    """Straight flanks that rise from ``root`` to ``tip`` mm anticlockwise, then faces.

    A face stands on its tooth's radius, or leans back under the tip by ``lean`` rad seen from
    the centre; the root of the first flank lies along ``turned``. Reversed: its mirror image.
    """
    if not 3 <= teeth <= MOST:
        raise _wrong(f"a ratchet wheel of {teeth} teeth is not made.", f"Give it 3 to {MOST}.")
    step = 2 * math.pi / teeth
    if not 0 < root < tip:
        raise _wrong("its teeth have no height.", "Give it a tip radius above its root radius.")
    if not 0 <= lean < 0.5 * step:
        raise _wrong("its faces lean too far.", "Give it less than half a tooth of lean.")
    rim = []
    for k in range(teeth):
        rim += [(root, k * step - lean), (tip, (k + 1) * step)]
    if is_reversed:
        rim = [(radius, -angle) for radius, angle in reversed(rim)]
    points = [_at(x, y, radius, turned + angle) for radius, angle in rim]
    builder = ContourBuilder()
    for one, two in zip(points, [*points[1:], points[0]], strict=True):
        builder.line(one, two)
    return builder.close()


def crank_of(slots: int, centres: float) -> float:
    """mm from the driver's axis to its pin."""
    return centres * math.sin(math.pi / slots)


def geneva_contour(
    slots: int, centres: float, slot: float, lock: float, x: float, y: float, turned: float
) -> Contour:
    """A Geneva wheel about x, y with a slot along ``turned``.

    ``centres`` mm apart from its driver, slots ``slot`` mm wide, hollows of radius ``lock`` mm
    between them in which the driver's disc turns.
    """
    if not 3 <= slots <= 60:
        raise _wrong(f"a Geneva wheel of {slots} slots is not made.", "Give it 3 to 60.")
    half = slot / 2
    outer, depth = centres * math.cos(math.pi / slots), centres - crank_of(slots, centres)
    if not 0 < half < depth:
        raise _wrong("its slots leave nothing of it.", "Give it narrower slots or more distance.")
    cosine = (outer**2 + centres**2 - lock**2) / (2 * outer * centres)
    beside = math.asin(min(1.0, half / outer))
    reach = math.acos(min(1.0, max(-1.0, cosine)))
    if not centres - outer < lock or reach >= math.pi / slots - beside:
        raise _wrong(
            f"hollows of {lock:g} mm do not lie between its slots.",
            f"Give them more than {centres - outer:.4g} mm and less than the crank's"
            f" {crank_of(slots, centres):.4g} mm by the wall you want beside a slot.",
        )
    builder = ContourBuilder()
    step = 2 * math.pi / slots
    for k in range(slots):
        here = turned + k * step
        middle = here + step / 2
        builder.arc((x, y), outer, here + beside, step / 2 - reach - beside)
        hollow = _at(x, y, centres, middle)
        first, last = (_at(x, y, outer, middle + sign * reach) for sign in (-1, 1))
        begin = math.atan2(first[1] - hollow[1], first[0] - hollow[0])
        end = math.atan2(last[1] - hollow[1], last[0] - hollow[0])
        builder.arc(hollow, lock, begin, math.remainder(end - begin, math.tau))
        builder.arc((x, y), outer, middle + reach, step / 2 - reach - beside)
        ahead = here + step
        c, s = math.cos(ahead), math.sin(ahead)
        mouth = outer * math.cos(beside)
        sides = [
            [(x + c * r - sign * s * half, y + s * r + sign * c * half) for r in (mouth, depth)]
            for sign in (-1, 1)
        ]
        builder.line(*sides[0])
        builder.arc(_at(x, y, depth, ahead), half, ahead - math.pi / 2, -math.pi)
        builder.line(sides[1][1], sides[1][0])
    return builder.close()


def locking_contour(
    slots: int, centres: float, lock: float, play: float, x: float, y: float, turned: float
) -> Contour:
    """The disc that holds a Geneva wheel at rest, hollowed along ``turned`` where it must pass.

    ``lock`` mm is the radius of the wheel's hollows, less ``play``. It is cut away for the turn in
    which the wheel moves, 90 - 180/n degrees to either side, on a circle about the wheel's centre.
    """
    if slots < 3 or not 0 < play < lock < centres:
        raise _wrong(
            "a locking disc needs 3 slots or more, and play below its radius.",
            "Give it the numbers of its Geneva wheel.",
        )
    radius, outer = lock - play, centres * math.cos(math.pi / slots)
    reach = math.pi / 2 - math.pi / slots
    rim = math.sqrt(radius**2 + centres**2 - 2 * radius * centres * math.cos(reach))
    if not rim > outer:
        raise _wrong(
            "the wheel would not pass it.", "Give it a smaller lock radius, for it and its wheel."
        )
    builder = ContourBuilder()
    builder.arc((x, y), radius, turned + reach, 2 * math.pi - 2 * reach)
    hollow = _at(x, y, centres, turned)
    first, last = (_at(x, y, radius, turned + sign * reach) for sign in (-1, 1))
    begin = math.atan2(first[1] - hollow[1], first[0] - hollow[0])
    end = math.atan2(last[1] - hollow[1], last[0] - hollow[0])
    builder.arc(hollow, rim, begin, math.remainder(end - begin, math.tau))
    return builder.close()


def sprocket_contour(
    teeth: int, pitch: float, roller: float, x: float, y: float, turned: float
) -> Contour:
    """A sprocket with a tooth gap along ``turned``, for rollers of ``roller`` mm diameter."""
    if not 6 <= teeth <= MOST:
        raise _wrong(f"a sprocket of {teeth} teeth is not made.", f"Give it 6 to {MOST}.")
    if not 0 < roller < 0.8 * pitch:
        raise _wrong(
            "its rollers do not leave room for teeth.", "Give them less than 0.8 of the pitch."
        )
    radius = pitch / math.sin(math.pi / teeth) / 2
    seat, flank = 0.505 * roller, 0.12 * roller * (teeth + 2)
    half_angle = math.radians(140 - 90 / teeth) / 2
    tip = radius + (pitch * (1 - 1.6 / teeth) + 1.25 * pitch) / 4 - roller / 2
    step = 2 * math.pi / teeth
    rise, tip_half = _flank(radius, seat, flank, half_angle, tip, step)
    builder = ContourBuilder()
    for k in range(teeth):
        here = turned + k * step
        centre = _at(x, y, radius, here)
        # The seat faces outwards: run from its clockwise side, its centre on the right.
        begin = here + math.pi + half_angle
        builder.arc(centre, seat, begin, -2 * half_angle)
        up = here + math.pi - half_angle
        away = _at(*centre, seat + flank, up)
        builder.arc(away, flank, up + math.pi, rise)
        builder.arc((x, y), tip, here + step / 2 - tip_half, 2 * tip_half)
        ahead = here + step
        centre = _at(x, y, radius, ahead)
        down = ahead + math.pi + half_angle
        away = _at(*centre, seat + flank, down)
        builder.arc(away, flank, down + math.pi - rise, rise)
    return builder.close()


def _flank(
    radius: float, seat: float, flank: float, half_angle: float, tip: float, step: float
) -> tuple[float, float]:
    """Sweep of a flank from the seat to the tip circle, and half the angle its tooth's tip takes.

    Stated for a gap along x. Raises `GeometryError` if the tooth comes to a point below its tip.
    """
    up = math.pi - half_angle
    ax, ay = radius + (seat + flank) * math.cos(up), (seat + flank) * math.sin(up)
    reach = math.hypot(ax, ay)
    cosine = (tip**2 + reach**2 - flank**2) / (2 * tip * reach)
    if not -1 < cosine < 1:
        raise _wrong("its flanks do not meet its tips.", "Give it smaller rollers or more teeth.")
    angle = math.atan2(ay, ax) - math.acos(cosine)
    half = step / 2 - angle
    if half <= 0:
        raise _wrong("its teeth come to a point.", "Give it smaller rollers or more teeth.")
    ex, ey = tip * math.cos(angle), tip * math.sin(angle)
    sweep = math.remainder(math.atan2(ey - ay, ex - ax) - (up + math.pi), math.tau)
    return sweep, half
