"""Exact closed outlines of lines and arcs, as arrays.

A `Contour` keeps its edges in structure-of-arrays form. Arcs are cut at every quarter turn, so that
each is monotone in x and y: a ray meets it at most once, and its chord, its middle and its
bounding circle are well behaved.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.errors import GeometryError

Floats = npt.NDArray[np.float64]
SMALLEST = 1e-9
"""mm; edges shorter than this are dropped."""


@dataclass(frozen=True, slots=True, eq=False)
class Contour:
    """A closed outline of E monotone edges.

    start, end : (E, 2) mm.
    centre : (E, 2) mm; radius : (E,) mm, 0 for a line; sweep : (E,) rad, signed, 0 for a line.
    piece : (E,) index of the edge as the designer counts it, before arcs were cut.
    """

    start: Floats
    end: Floats
    centre: Floats
    radius: Floats
    sweep: Floats
    piece: npt.NDArray[np.int64]

    @property
    def is_arc(self) -> npt.NDArray[np.bool_]:
        """(E,) which edges are arcs."""
        return self.radius > 0.0

    def taken(self, rows: npt.NDArray[np.bool_] | npt.NDArray[np.int64]) -> Contour:
        """Some of the edges."""
        return Contour(
            self.start[rows],
            self.end[rows],
            self.centre[rows],
            self.radius[rows],
            self.sweep[rows],
            self.piece[rows],
        )

    @property
    def circle(self) -> tuple[float, float, float] | None:
        """Middle and radius (mm) if the outline is one full circle, else None."""
        if not self.is_arc.all() or abs(abs(float(self.sweep.sum())) - 2 * math.pi) > SMALLEST:
            return None
        middle, radius = self.centre[0], float(self.radius[0])
        if np.abs(self.centre - middle).max() > SMALLEST or np.ptp(self.radius) > SMALLEST:
            return None
        return float(middle[0]), float(middle[1]), radius

    def turned_over(self) -> Contour:
        """The outline as seen from behind, turned over about x; it runs round the same way."""
        over = np.array([1.0, -1.0])
        back = slice(None, None, -1)
        return Contour(
            (self.end * over)[back],
            (self.start * over)[back],
            (self.centre * over)[back],
            self.radius[back],
            self.sweep[back],
            self.piece[back],
        )

    def middles(self) -> Floats:
        """(E, 2) the middle point of every edge, on the edge."""
        angle = _angles(self.start - self.centre) + self.sweep / 2.0
        on_arc = self.centre + self.radius[:, None] * np.stack([np.cos(angle), np.sin(angle)], 1)
        return np.where(self.is_arc[:, None], on_arc, (self.start + self.end) / 2.0)

    def bounds(self) -> tuple[float, float, float, float]:
        """Least x, least y, greatest x, greatest y in mm (arcs are monotone: ends suffice)."""
        low, high = self.start.min(axis=0), self.start.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def polygon(self, tolerance: float = 0.005) -> Floats:
        """(V, 2) vertices; chords stay within ``tolerance`` mm of their arcs."""
        points: list[Floats] = []
        for i in range(len(self.radius)):
            radius, sweep = float(self.radius[i]), float(self.sweep[i])
            if radius == 0.0:
                points.append(self.start[i : i + 1])
                continue
            most = 2.0 * math.acos(max(0.0, 1.0 - min(tolerance, radius) / radius))
            count = max(1, math.ceil(abs(sweep) / most))
            first = math.atan2(*(self.start[i] - self.centre[i])[::-1])
            angles = first + sweep * np.arange(count) / count
            points.append(
                self.centre[i] + radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
            )
        return np.concatenate(points)

    def area(self) -> float:
        """Signed area in mm², positive anticlockwise (Green's theorem, arcs exact)."""
        a, b = self.start, self.end
        chords = 0.5 * float(np.sum(a[:, 0] * b[:, 1] - b[:, 0] * a[:, 1]))
        caps = 0.5 * float(np.sum(self.radius**2 * (self.sweep - np.sin(self.sweep))))
        return chords + caps


def _angles(vectors: Floats) -> Floats:
    return np.asarray(np.arctan2(vectors[:, 1], vectors[:, 0]))


class ContourBuilder:
    """Collects edges in order and closes them into a `Contour`."""

    def __init__(self) -> None:
        self._rows: list[tuple[float, ...]] = []
        self._piece = 0

    def line(self, start: Sequence[float], end: Sequence[float]) -> None:
        """Add a straight edge."""
        if math.dist(start, end) > SMALLEST:
            self._rows.append((*start, *end, 0.0, 0.0, 0.0, 0.0, self._piece))
        self._piece += 1

    def arc(self, centre: Sequence[float], radius: float, first: float, sweep: float) -> None:
        """Add an arc from angle ``first`` over ``sweep`` rad, cut at quarter turns."""
        if abs(sweep) * radius > SMALLEST:
            quarter = math.pi / 2.0
            low, high = min(first, first + sweep), max(first, first + sweep)
            cuts = [
                k * quarter for k in range(math.ceil(low / quarter), math.floor(high / quarter) + 1)
            ]
            inner = [c for c in cuts if low + 1e-9 < c < high - 1e-9]
            stops = [low, *inner, high]
            if sweep < 0:
                stops.reverse()
            for a, b in zip(stops, stops[1:], strict=False):
                start = (centre[0] + radius * math.cos(a), centre[1] + radius * math.sin(a))
                end = (centre[0] + radius * math.cos(b), centre[1] + radius * math.sin(b))
                self._rows.append((*start, *end, *centre, radius, b - a, self._piece))
        self._piece += 1

    def bulged(self, start: Sequence[float], end: Sequence[float], bulge: float) -> None:
        """Add an edge given by its ends and bulge = tan(sweep / 4)."""
        if abs(bulge) < 1e-12:
            self.line(start, end)
            return
        sweep = 4.0 * math.atan(bulge)
        dx, dy = end[0] - start[0], end[1] - start[1]
        reach = (1.0 - bulge * bulge) / (4.0 * bulge)
        centre = ((start[0] + end[0]) / 2 - reach * dy, (start[1] + end[1]) / 2 + reach * dx)
        first = math.atan2(start[1] - centre[1], start[0] - centre[0])
        self.arc(centre, math.dist(start, centre), first, sweep)

    def close(self) -> Contour:
        """Make the contour; raises `GeometryError` if it has no area or crosses itself."""
        if len(self._rows) < 2:
            raise GeometryError("it has no area.", where="outline", remedy="Give it a size.")
        rows = np.array(self._rows)
        # Neighbours share their vertex to the last bit, or a ray could slip between them.
        following = np.roll(rows[:, 0:2], -1, axis=0)
        if float(np.abs(following - rows[:, 2:4]).max()) < 1e-6:
            rows[:, 2:4] = following
        contour = Contour(
            rows[:, 0:2],
            rows[:, 2:4],
            rows[:, 4:6],
            rows[:, 6],
            rows[:, 7],
            rows[:, 8].astype(np.int64),
        )
        if abs(contour.area()) < SMALLEST:
            raise GeometryError("it has no area.", where="outline", remedy="Give it a size.")
        return contour if contour.area() > 0 else reversed_contour(contour)


def reversed_contour(contour: Contour) -> Contour:
    """The same outline run the other way round."""
    return Contour(
        contour.end[::-1],
        contour.start[::-1],
        contour.centre[::-1],
        contour.radius[::-1],
        -contour.sweep[::-1],
        contour.piece[::-1],
    )


def circle(x: float, y: float, radius: float) -> Contour:
    """A full circle as four quarter arcs, one piece."""
    _need_positive(radius, "the radius")
    builder = ContourBuilder()
    builder.arc((x, y), radius, 0.0, 2.0 * math.pi)
    return builder.close()


def rectangle(
    x: float, y: float, width: float, height: float, corner: float, turned: float
) -> Contour:
    """A rectangle about (x, y), corners rounded, turned anticlockwise."""
    _need_positive(width, "the width")
    _need_positive(height, "the height")
    if corner < 0 or 2 * corner > min(width, height) + SMALLEST:
        raise GeometryError(
            f"the corner radius {corner:g} mm does not fit {width:g} x {height:g} mm.",
            where="outline",
            remedy=f"Use 0 to {min(width, height) / 2:g} mm.",
        )
    c, s = math.cos(turned), math.sin(turned)
    builder = ContourBuilder()

    def turn(px: float, py: float) -> tuple[float, float]:
        return (x + c * px - s * py, y + s * px + c * py)

    w, h = width / 2, height / 2
    signs = ((1, -1), (1, 1), (-1, 1), (-1, -1))
    for i, (sx, sy) in enumerate(signs):
        heading = i * math.pi / 2
        if corner > 0:
            inner = turn(sx * (w - corner), sy * (h - corner))
            builder.arc(inner, corner, heading - math.pi / 2 + turned, math.pi / 2)
        nx, ny = signs[(i + 1) % 4]
        ux, uy = (nx - sx) / 2, (ny - sy) / 2
        start = turn(sx * w + ux * corner, sy * h + uy * corner)
        end = turn(nx * w - ux * corner, ny * h - uy * corner)
        builder.line(start, end)
    return builder.close()


def hull(rounds: Sequence[tuple[float, float, float]]) -> Contour:
    """The belt stretched over circles (x, y, radius): the convex hull, exactly.

    The support of circle i in direction f is c_i·n(f) + r_i; the hull follows the circle whose
    support is greatest, and changes where two supports are equal.
    """
    for _, _, radius in rounds:
        if radius < 0:
            raise GeometryError("a radius is negative.", where="outline", remedy="Use 0 or more.")
    centres = np.array([(x, y) for x, y, _ in rounds])
    radii = np.array([radius for _, _, radius in rounds])
    turns: list[float] = []
    for i in range(len(rounds)):
        for j in range(i):
            dx, dy = centres[j] - centres[i]
            span = math.hypot(dx, dy)
            difference = float(radii[i] - radii[j])
            if span <= abs(difference) or span < SMALLEST:
                continue
            middle, half = math.atan2(dy, dx), math.acos(difference / span)
            turns += [(middle - half) % (2 * math.pi), (middle + half) % (2 * math.pi)]
    turns.sort()
    if not turns:
        largest = int(np.argmax(radii))
        return _circle_of(centres, radii, largest)
    owners: list[tuple[float, int]] = []
    for k, turn in enumerate(turns):
        following = turns[(k + 1) % len(turns)] + (2 * math.pi if k + 1 == len(turns) else 0)
        if following - turn < 1e-12:
            continue
        direction = np.array([math.cos((turn + following) / 2), math.sin((turn + following) / 2)])
        owner = int(np.argmax(centres @ direction + radii))
        if not owners or owners[-1][1] != owner:
            owners.append((turn, owner))
    if len(owners) > 1 and owners[0][1] == owners[-1][1]:
        owners.pop(0)
    if len(owners) == 1:
        return _circle_of(centres, radii, owners[0][1])
    builder = ContourBuilder()
    for k, (turn, owner) in enumerate(owners):
        following, next_owner = owners[(k + 1) % len(owners)]
        sweep = (following - turn) % (2 * math.pi)
        builder.arc(centres[owner].tolist(), float(radii[owner]), turn, sweep)
        normal = np.array([math.cos(following), math.sin(following)])
        builder.line(
            (centres[owner] + radii[owner] * normal).tolist(),
            (centres[next_owner] + radii[next_owner] * normal).tolist(),
        )
    return builder.close()


def _circle_of(centres: Floats, radii: Floats, index: int) -> Contour:
    return circle(float(centres[index, 0]), float(centres[index, 1]), float(radii[index]))


def path(vertices: Sequence[tuple[float, float, float, float]]) -> Contour:
    """A closed path over (x, y, bulge, fillet); a fillet rounds a corner of two lines."""
    count = len(vertices)
    points = [np.array(v[:2]) for v in vertices]
    trims: list[tuple[Floats, Floats, float]] = []
    for i, (_, _, bulge, fillet) in enumerate(vertices):
        before, here, after = points[i - 1], points[i], points[(i + 1) % count]
        if fillet <= 0:
            if fillet < 0:
                raise _corner(i, "a fillet is negative.", "Use 0 or more.")
            trims.append((here, here, 0.0))
            continue
        if bulge or vertices[i - 1][2]:
            raise _corner(i, "a fillet needs a line on both sides.", "Remove the bulge.")
        trims.append(_fillet(i, before, here, after, fillet))
    builder = ContourBuilder()
    for i in range(count):
        entry, leave, bulge = trims[i]
        if bulge:
            builder.bulged(entry.tolist(), leave.tolist(), bulge)
        following = trims[(i + 1) % count][0]
        ahead = points[(i + 1) % count] - points[i]
        if not vertices[i][2] and float((following - leave) @ ahead) < -SMALLEST:
            raise _corner(i, "its fillets overlap on the next edge.", "Use smaller fillets.")
        builder.bulged(leave.tolist(), following.tolist(), vertices[i][2])
    return builder.close()


def _fillet(
    i: int, before: Floats, here: Floats, after: Floats, radius: float
) -> tuple[Floats, Floats, float]:
    inward, outward = here - before, after - here
    lengths = float(np.hypot(*inward)), float(np.hypot(*outward))
    if min(lengths) < SMALLEST:
        raise _corner(i, "two vertices coincide.", "Remove one.")
    inward, outward = inward / lengths[0], outward / lengths[1]
    turn = math.atan2(inward[0] * outward[1] - inward[1] * outward[0], float(inward @ outward))
    cut = radius * abs(math.tan(turn / 2))
    if cut > min(lengths) + SMALLEST:
        raise _corner(i, f"the fillet {radius:g} mm does not fit.", "Use a smaller one.")
    return here - cut * inward, here + cut * outward, math.tan(turn / 4)


def _corner(i: int, what: str, remedy: str) -> GeometryError:
    return GeometryError(what, where=f"vertex {i + 1} of the outline", remedy=remedy)


def _need_positive(value: float, what: str) -> None:
    if not value > SMALLEST:
        raise GeometryError(
            f"{what} is {value:g} mm.", where="outline", remedy="Give a size above zero."
        )
