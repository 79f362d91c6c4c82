"""How fast pairs of features can close, and come to face, over a stretch: proven bounds.

Everything is relative: of a line and a round, how fast the round's centre moves along the line's
normal as seen from its body; of two rounds, how fast their centres approach. What the rates are
at a look and how much they can change within the stretch is bounded as in
`anakinema.motion.speed_bounds`. Proof: docs/methods.md, "Contact".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.geometry.complexes import Complexes, as_complex, dot, unit
from anakinema.geometry.contour import Floats
from anakinema.geometry.features import Feature, Features, Pairs
from anakinema.mechanism.contacts import Facing


@dataclass(frozen=True, slots=True, eq=False)
class Spread:
    """Poses and rates (N, B, 3) at looks, and the most (N, B, 3) that rates can be within half a
    stretch (N,) about each; NaN where nothing bounds them."""

    poses: Floats
    first: Floats
    most: Floats
    half: Floats

    @property
    def more(self) -> Floats:
        """(N, B, 3) how much each rate can differ from that at its look."""
        return np.asarray(np.maximum(self.most - np.abs(self.first), 0.0))


def nearing(facing: Facing, at: Spread) -> Floats:
    """(N,) mm by progress that any two features can approach at most; infinite if unbounded."""
    a, b = facing.bodies
    first, more, most, half = at.first, at.more, at.most, at.half
    apart = as_complex(at.poses[:, b, :2] - at.poses[:, a, :2])
    spin = first[:, a, 2]
    rate = as_complex(first[:, b, :2] - first[:, a, :2]) - 1j * spin * apart
    loose = _length(more[:, a]) + _length(more[:, b])
    path = half * (_length(most[:, a]) + _length(most[:, b]))
    far = np.abs(apart) + path
    loose = loose + more[:, a, 2] * far + most[:, a, 2] * path
    turn = np.abs(first[:, b, 2] - spin) + more[:, a, 2] + more[:, b, 2]
    return _or_infinite(np.abs(rate) + loose + turn * facing.far[1])


def closing(facing: Facing, pairs: Pairs, at: Spread) -> tuple[Floats, Floats]:
    """(N, P) mm by progress that each gap can change by, and (N, P) mm or rad its margin."""
    a, b = facing.bodies
    change = np.empty((len(at.half), len(pairs.one)))
    turning = np.empty_like(change)
    one, two = pairs.first.kind[pairs.one], pairs.second.kind[pairs.two]
    first, second = _Side(pairs.first, a, at), _Side(pairs.second, b, at)
    rounds = (one != Feature.LINE) & (two != Feature.LINE)
    for rows, line, centre, i, j in (
        (one == Feature.LINE, first, second, pairs.one, pairs.two),
        (two == Feature.LINE, second, first, pairs.two, pairs.one),
    ):
        if rows.any():
            change[:, rows], turning[:, rows] = _to_line(line, centre, i[rows], j[rows], at.half)
    if rounds.any():
        i, j = pairs.one[rounds], pairs.two[rounds]
        change[:, rounds], turning[:, rounds] = _between(first, second, i, j, at.half)
    return _or_infinite(change), _or_infinite(turning)


class _Side:
    """The features of one body over a stretch; arms (N, F) of their points in the plane, complex as
    all vectors here."""

    def __init__(self, features: Features, body: int, at: Spread) -> None:
        pose, first, more, most = (x[:, body] for x in (at.poses, at.first, at.more, at.most))
        point = as_complex(features.point)
        self.features, self.angle = features, pose[:, 2]
        self.origin = as_complex(pose[:, :2])[:, None]
        self.arm = unit(pose[:, 2])[:, None] * point
        self.long = np.abs(point)
        self.rate, self.spin = as_complex(first[:, :2])[:, None], first[:, 2, None]
        self.loose, self.spin_loose = _length(more), more[:, 2]
        self.most, self.spin_most = _length(most), most[:, 2]

    def velocity(self, chosen: np.ndarray) -> Complexes:
        """(N, P) of the points of chosen features."""
        return np.asarray(self.rate + 1j * self.spin * self.arm[:, chosen])

    def change(self, chosen: np.ndarray, half: Floats) -> Floats:
        """(N, P) how much those velocities can change."""
        bent = self.spin_loose + half * self.spin_most**2
        return np.asarray(self.loose[:, None] + bent[:, None] * self.long[chosen])


def _to_line(
    line: _Side, centre: _Side, i: np.ndarray, j: np.ndarray, half: Floats
) -> tuple[Floats, Floats]:
    """Of lines i and the rounds j of the other body."""
    angle = line.angle[:, None] + line.features.direction[i]
    normal = 1j * unit(angle)
    reach = centre.origin + centre.arm[:, j] - line.origin
    moves = centre.velocity(j) - (line.rate + 1j * line.spin * reach)
    # The arm from the line's body to the centre changes as the centre moves about it.
    path = half[:, None] * (
        centre.most[:, None] + centre.spin_most[:, None] * centre.long[j] + line.most[:, None]
    )
    far = np.abs(reach) + path
    loose = centre.change(j, half) + line.loose[:, None]
    loose = loose + line.spin_loose[:, None] * far + line.spin_most[:, None] * path
    speed = np.abs(moves) + loose
    bent = loose + (half * line.spin_most)[:, None] * speed
    change = np.minimum(np.abs(dot(moves, normal)) + bent, speed)
    return change, np.maximum(speed, (line.spin_most + centre.spin_most)[:, None])


def _between(
    one: _Side, two: _Side, i: np.ndarray, j: np.ndarray, half: Floats
) -> tuple[Floats, Floats]:
    """Of two rounds, or a round and a bowl, by their centres."""
    apart = two.origin + two.arm[:, j] - one.origin - one.arm[:, i]
    moves = two.velocity(j) - one.velocity(i)
    loose = one.change(i, half) + two.change(j, half)
    speed = np.abs(moves) + loose
    distance = np.abs(apart)
    left = distance - half[:, None] * speed
    with np.errstate(divide="ignore", invalid="ignore"):
        swing = np.where(left > 0.0, speed / left, np.inf)
        straight = np.abs(dot(moves, apart / distance))
        change = straight + loose + speed * np.minimum(half[:, None] * swing, 2.0)
    change = np.where(np.isfinite(change), np.minimum(change, speed), speed)
    return change, swing + np.maximum(one.spin_most, two.spin_most)[:, None]


def _length(rates: Floats) -> Floats:
    return np.asarray(np.hypot(rates[..., 0], rates[..., 1]))


def _or_infinite(values: Floats) -> Floats:
    return np.where(np.isnan(values), np.inf, values)
