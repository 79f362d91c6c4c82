"""How far a cam lifts its follower over one turn: segments by laws, or a curve through points."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Floats
from anakinema.geometry.laws import PIECES, MotionLaw, jerk, rise

FULL_TURN = 2 * math.pi
SAME = 1e-9
"""rad, or share of the whole lift, that is no difference."""


@dataclass(frozen=True, slots=True)
class Segment:
    """The lift goes to ``to`` (mm or rad) by a law while the cam turns by ``turn`` rad."""

    turn: float
    to: float
    law: MotionLaw = "cycloidal"


@dataclass(frozen=True, slots=True)
class _Piece:
    """One formula: lift and its first three derivatives (N, 4) at cam angles (N,)."""

    begin: float
    end: float
    formula: Callable[[Floats], Floats]


class Lift:
    """Lift of a follower, its pieces in order over a full turn.

    breaks : (P + 1,) rad, where one formula passes into the next; bends : those of them at
    which the acceleration jumps.
    """

    def __init__(self, pieces: Sequence[_Piece]) -> None:
        self._pieces = tuple(pieces)
        self.breaks = np.array([p.begin for p in pieces] + [pieces[-1].end])
        before, after = (self._at_breaks(before=flag) for flag in (True, False))
        self.span = float(np.ptp(self.at(np.linspace(0, FULL_TURN, 2001))[:, 0]))
        scale = self.span or 1.0
        jumps = np.abs(after - before)[:-1]
        corner = np.flatnonzero((jumps[:, 0] > SAME * scale) | (jumps[:, 1] > 1e-7 * scale))
        if len(corner):
            where = math.degrees(self.breaks[int(corner[0])])
            raise GeometryError(
                f"its speed jumps at {where:.4g}°, which makes a corner no follower can pass.",
                where="cam",
                remedy="Give the law there that starts and ends at rest, or an ease.",
            )
        self.bends = self.breaks[:-1][jumps[:, 2] > 1e-6 * scale]

    def _at_breaks(self, *, before: bool) -> Floats:
        rows = []
        for k, angle in enumerate(self.breaks):
            piece = self._pieces[(k - 1 if before else k) % len(self._pieces)]
            at = piece.end if before else piece.begin
            rows.append(piece.formula(np.array([at if len(self._pieces) else angle]))[0])
        return np.array(rows)

    def at(self, angle: Floats, *, before: bool = False) -> Floats:
        """(N, 4) lift and its first three derivatives by the cam's angle (N,) rad.

        At a break of the piece that begins there; ``before``: of the one that ends there.
        """
        angle = np.asarray(angle, dtype=float)
        turned = angle % FULL_TURN
        if before:
            turned = np.where(turned == 0.0, FULL_TURN, turned)
        which = np.searchsorted(self.breaks, turned, "left" if before else "right") - 1
        which = np.clip(which, 0, len(self._pieces) - 1)
        out = np.empty((len(angle), 4))
        for k in np.unique(which):
            rows = which == k
            out[rows] = self._pieces[k].formula(turned[rows])
        return out


def segments_lift(segments: Sequence[Segment], ease: float) -> Lift:
    """The lift of a program of segments; ``ease`` rad of even acceleration on either side of a
    constant speed (common practice, no source). Raises `GeometryError`."""
    total = sum(segment.turn for segment in segments)
    if not segments or abs(total - FULL_TURN) > SAME:
        raise GeometryError(
            f"its segments cover {math.degrees(total):.6g}° of the turn.",
            where="cam",
            remedy="Let them add up to 360°.",
        )
    pieces: list[_Piece] = []
    begin, low = 0.0, segments[-1].to
    for k, segment in enumerate(segments):
        if segment.turn <= 0:
            raise GeometryError(
                f"segment {k + 1} takes no turn of the cam.",
                where="cam",
                remedy="Give it an angle above 0.",
            )
        pieces += _segment_pieces(begin, segment, low, ease, k)
        begin, low = begin + segment.turn, segment.to
    return Lift(pieces)


def points_lift(angles: Floats, lifts: Floats) -> Lift:
    """The lift through points (N,) over a turn: a closed curve of degree 5."""
    from scipy.interpolate import make_interp_spline  # slow to import, so not at start

    if len(angles) < 6 or bool((np.diff(angles) <= 0).any()) or angles[-1] >= angles[0] + FULL_TURN:
        raise GeometryError(
            "a lift through points needs six of them or more, at rising angles within one turn.",
            where="cam",
            remedy="Correct the table.",
        )
    # Stated from angle 0, so that the pieces lie in order there.
    knots = np.append(angles, angles[0] + FULL_TURN)
    poly = make_interp_spline(knots, np.append(lifts, lifts[0]), k=5, bc_type="periodic")
    derivatives = [poly, *(poly.derivative(n) for n in (1, 2, 3))]

    def formula(angle: Floats) -> Floats:
        seen = knots[0] + (angle - knots[0]) % FULL_TURN
        return np.stack([d(seen) for d in derivatives], axis=1)

    return Lift([_Piece(0.0, FULL_TURN, formula)])


def _segment_pieces(
    begin: float, segment: Segment, low: float, ease: float, number: int
) -> list[_Piece]:
    turn, height = segment.turn, segment.to - low
    if abs(height) < 1e-12:
        return [_Piece(begin, begin + turn, _polynomial(begin, (low,)))]
    if segment.law == "constant":
        if not 0.0 < ease <= turn / 2:
            raise GeometryError(
                f"its ease does not fit into segment {number + 1} of constant speed.",
                where="cam",
                remedy="Give an ease above 0, and at most half of the segment.",
            )
        speed = height / (turn - ease)
        bend = speed / (2 * ease)
        one, two = begin + ease, begin + turn - ease
        return [
            _Piece(begin, one, _polynomial(begin, (low, 0.0, bend))),
            _Piece(one, two, _polynomial(one, (low + speed * ease / 2, speed))),
            _Piece(two, begin + turn, _polynomial(begin + turn, (low + height, 0.0, -bend))),
        ]
    law = segment.law
    cuts = [begin + turn * x for x in (0.0, *PIECES.get(law, ()), 1.0)]
    return [
        _Piece(one, two, _by_law(law, begin, turn, low, height, (one, two)))
        for one, two in zip(cuts, cuts[1:], strict=False)
    ]


def _polynomial(centre: float, coefficients: tuple[float, ...]) -> Callable[[Floats], Floats]:
    place = np.polynomial.Polynomial(coefficients)
    derivatives = [place, *(place.deriv(n) for n in (1, 2, 3))]

    def formula(angle: Floats) -> Floats:
        return np.stack([np.broadcast_to(d(angle - centre), angle.shape) for d in derivatives], 1)

    return formula


def _by_law(
    law: MotionLaw,
    begin: float,
    turn: float,
    low: float,
    height: float,
    within: tuple[float, float],
) -> Callable[[Floats], Floats]:
    # A hair inside the piece, so that at its ends its own formula is used.
    inside = within[0] + 1e-13 * turn, within[1] - 1e-13 * turn

    def formula(angle: Floats) -> Floats:
        x = (np.clip(angle, *inside) - begin) / turn
        s, v, a = rise(law, x)
        steps = (s, v / turn, a / turn**2, jerk(law, x) / turn**3)
        return np.stack([low * (k == 0) + height * step for k, step in enumerate(steps)], axis=1)

    return formula
