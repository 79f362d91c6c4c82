"""Follow one assembly branch of a mechanism along a stage of the program, by arc length.

Unknowns are the body coordinates together with the progress p of the stage (0 to 1), so that a
driver dead point is a regular point of the path and is located instead of stepped over. A step
is predicted to third order (the third from the bends of two knots), corrected at right angles,
and accepted only if the correction is small against the step, the direction turns little, and
the orientation of the equations is unchanged. How fast the singular values of the equations fall
tells how far the next change point may be; steps keep short of it, and none may have passed one
behind. Where it is near, the branch is taken straight over it (`anakinema.motion.crossing`).
Method: docs/methods.md, "Following a branch";
after E. Allgower and K. Georg, Numerical Continuation Methods, Springer 1990, chapters 6 to 8
(from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.solve import null_space
from anakinema.motion.bordered import Bordered, Follower
from anakinema.motion.branch_path import BranchPath, End, Knot, Path, by_arc
from anakinema.motion.bridge import Bridge
from anakinema.motion.bridging import Node, Surroundings, bridged
from anakinema.motion.crossing import NEAR, begun
from anakinema.wanted import still_wanted

FIRST_STEP = 0.05
LONGEST_STEP = 0.8
LOOKED = 0.12
CROSSING_STEP = 2e-5
SHORTEST_STEP = 1e-9
"""Arc length steps as shares of the characteristic size; within ``LOOKED`` of where a change point
may be a way over it is looked for, and within ``CROSSING_STEP`` it must have been found."""
APPROACH = 0.6
"""Share of the way to where a change point may be that a step may take."""
BEHIND = 1.2
"""Steps that a change point behind a knot must be away, lest it lies within the step."""
FINER = 0.3
"""Share that the way to a change point must have shrunk by before it is tried again."""
STANDS_STILL = 1e-3
"""Share of progress in a direction below which only the heading says which way it goes."""
MOST_STEPS = 20_000


@dataclass(slots=True, eq=False)
class _Stand:
    """Where a walk stands: a regular point of the path and what is known there."""

    knot: Knot
    bordered: Bordered
    ahead: float
    behind: float


def follow(
    path: Path,
    poses: Floats,
    *,
    p: float = 0.0,
    until: float = 1.0,
    fineness: float = 1.0,
    most: float = math.inf,
    prior: Floats | None = None,
    heading: Floats | None = None,
) -> BranchPath:
    """Follow from assembled ``poses`` at progress ``p`` to ``until``.

    Complete too once the bodies have moved by ``most`` mm of arc length. ``fineness`` above 1
    shortens all steps. ``prior`` (B, 3): rates by progress with which the motion comes to the
    start, which tell the branch if that is a change point. ``heading`` (B, 3): in what direction
    the bodies move at the start, should progress stand still there.
    """
    return _Walk(path, poses, p, until, 1.0 / fineness, most).followed(prior, heading)


class _Walk:
    """One walk along a path: its knots, bridges and where it stands."""

    def __init__(
        self, path: Path, poses: Floats, p: float, until: float, coarse: float, most: float
    ) -> None:
        self.path, self.until, self.coarse, self.most = path, until, coarse, most
        self.follower = Follower(path, poses, p)
        self.size = self.follower.size
        self.knots: list[Knot] = []
        self.bridges: list[Bridge] = []
        self.tried = math.inf

    def followed(self, prior: Floats | None, heading: Floats | None) -> BranchPath:
        stand = self._begin(prior, heading)
        if isinstance(stand, BranchPath):
            return stand
        size = self.size
        step = min(FIRST_STEP * size * self.coarse, self.most)
        if self.bridges:
            step = max(step, 0.5 * stand.knot.arc)
        twist = np.zeros(len(stand.knot.tangent))
        for _ in range(MOST_STEPS):
            still_wanted()
            knot = stand.knot
            near = min(stand.ahead, LOOKED * size) < LOOKED * size
            # What lies just behind the end tells how poses are before it.
            if (knot.p >= self.until and not near) or knot.arc >= self.most:
                return self._done(End.COMPLETE, min(knot.p, self.until))
            if near and stand.ahead < FINER * self.tried:
                self.tried = stand.ahead
                over = self._over(stand)
                if over is not None:
                    stand, twist, self.tried = over, 0.0 * twist, math.inf
                    step = max(
                        0.5 * self.bridges[-1].half / self._pace(stand), SHORTEST_STEP * size
                    )
                    continue
            if stand.ahead > LOOKED * size:
                self.tried = math.inf
            if stand.ahead < CROSSING_STEP * size:
                at_end = knot.tangent[-1] < 1e-3
                return self._done(End.DEAD_POINT if at_end else End.UNDECIDED, knot.p)
            step = min(step, LONGEST_STEP * size * self.coarse, APPROACH * stand.ahead)
            new = self._step(stand, step, twist)
            if isinstance(new, float):
                step = new
                if step < SHORTEST_STEP * size:
                    return self._done(End.LOST, knot.p)
                continue
            stand, correction = new
            old_bend, bend = knot.bend, stand.knot.bend
            # Short steps need no third order.
            twist = (bend - old_bend) / step if step > 0.02 * size else 0.0 * bend
            self.knots.append(stand.knot)
            if stand.knot.tangent[-1] <= 0.0:
                return _dead_point(self.follower, self.knots, self.until, self.bridges)
            growth = (0.02 / max(correction / step, 1e-4)) ** (1.0 / 3.0)
            step *= float(np.clip(growth, 0.4, 4.0))
        return self._done(End.LOST, self.knots[-1].p)

    def _done(self, end: End, end_p: float) -> BranchPath:
        return BranchPath(
            self.path, tuple(self.knots), self.follower.p_scale, end, end_p, tuple(self.bridges)
        )

    def _pace(self, stand: _Stand) -> float:
        """Progress by mm of arc where a walk stands."""
        return max(float(stand.knot.tangent[-1]), 1e-9) / self.follower.p_scale

    def _stand(
        self, poses: Floats, p: float, matrix: Floats, before: Floats, arc: float
    ) -> _Stand | None:
        factors = self.follower.tangent(matrix, before)
        if factors is None:
            return None
        tangent, bordered = factors
        bend = self.follower.bend(poses, tangent, bordered)
        ahead, behind = self.follower.clearances(poses, matrix, tangent)
        return _Stand(Knot(arc, poses, p, tangent, bend), bordered, ahead, behind)

    def _begin(self, prior: Floats | None, heading: Floats | None) -> _Stand | BranchPath:
        """The first knot, behind the change point if the path begins at one."""
        walk = self.follower
        poses, p = walk.poses, walk.p
        rates = None if prior is None else self.path.system.unknown_rates(prior)
        _, matrix = walk.equations(poses, p)
        free = null_space(matrix, NEAR)
        if free.shape[1] > 1:
            bridge = begun(self.path, poses, p, rates)
            if bridge is not None:
                return self._begin_on(bridge)
            if null_space(matrix).shape[1] > 1:
                return self._done(End.BLOCKED, p)
        directions = null_space(matrix)
        if not directions.shape[1]:
            return self._done(End.BLOCKED, p)
        tangent = directions[:, 0]
        way = float(tangent[-1])
        if heading is not None and abs(way) < STANDS_STILL:
            way = float(tangent[:-1] @ self.path.system.unknown_rates(heading))
        if abs(way) < 1e-9:
            return self._done(End.BLOCKED, p)
        tangent = tangent * np.sign(way)
        stand = self._stand(poses, p, matrix, np.asarray(tangent), 0.0)
        if stand is None:
            return self._done(End.LOST, p)
        self.knots.append(stand.knot)
        return stand

    def _begin_on(self, bridge: Bridge) -> _Stand | BranchPath:
        """Begin at the start on a bridge, and stand at its end."""
        walk = self.follower
        at = bridge.states(self.path.system, np.array([walk.p]))
        knot = _knot_of(self.path, walk.p, 0.0, *(each[0] for each in at))
        self.knots.append(knot)
        stand = self._end_of(bridge, knot)
        return self._done(End.UNDECIDED, walk.p) if stand is None else stand

    def _arc_to(self, knot: Knot, before: Knot) -> float:
        """The arc of a knot behind another, straight from there."""
        way = self.path.system.unknown_rates(knot.poses - before.poses)
        along = (knot.p - before.p) * self.follower.p_scale
        return before.arc + math.hypot(float(np.linalg.norm(way)), along)

    def _end_of(self, bridge: Bridge, before: Knot) -> _Stand | None:
        """The knot at a bridge's end, which is put on; all within it go."""
        states = bridge.states(self.path.system, np.array([bridge.end]))
        end = _knot_of(self.path, bridge.end, 0.0, *(each[0] for each in states))
        arc = self._arc_to(end, before)
        landed = self.follower.correct(end.poses, bridge.end, end.tangent)
        if landed is None:
            return None
        stand = self._stand(landed[0], landed[1], landed[2], end.tangent, arc)
        if stand is not None:
            self.bridges.append(bridge)
            self.knots.append(stand.knot)
        return stand

    def _over(self, stand: _Stand) -> _Stand | None:
        """Beyond the change points ahead of where the walk stands, None if none are found."""
        pace = self._pace(stand)
        if stand.knot.tangent[-1] < 1e-3:
            return None
        last = stand.knot
        system = self.path.system
        begin = self.bridges[-1].end if self.bridges else -math.inf
        near = [k for k in self.knots if k.p >= begin][-4:]
        nodes = tuple(_node_of(self.path, k, last.poses) for k in near)
        around = Surroundings(self.path, last.poses, tuple(n for n in nodes if n is not None))
        if not around.nodes:
            return None
        bridge = bridged(around, last.p + stand.ahead * pace, 2.2 * stand.ahead / self.size)
        if bridge is None or bridge.end <= last.p:
            return None
        before = [k for k in self.knots if k.p < bridge.begin]
        if before:
            states = bridge.states(system, np.array([bridge.begin]))
            first = _knot_of(self.path, bridge.begin, 0.0, *(each[0] for each in states))
            kept = [*before, replace(first, arc=self._arc_to(first, before[-1]))]
        else:
            kept = self.knots[:1]
        old, self.knots = self.knots, kept
        over = self._end_of(bridge, kept[-1])
        if over is None:
            self.knots = old
        return over

    def _step(self, stand: _Stand, step: float, twist: Floats) -> tuple[_Stand, float] | float:
        """The next stand and the correction it took, or a shorter step to try."""
        walk, knot = self.follower, stand.knot
        ahead = step * knot.tangent + 0.5 * step * step * knot.bend + step**3 / 6.0 * twist
        guess, guess_p = walk.place(knot.poses, knot.p, ahead)
        # Knots only guide the interpolation, samples are polished; next to a crossing be exact.
        accuracy = min(1e-4 * (step / self.size) ** 2, 1e-7)
        landed = walk.correct(guess, guess_p, knot.tangent, accuracy)
        if landed is None or landed[3] > 0.08 * step:
            return step / 2.0
        new = self._stand(landed[0], landed[1], landed[2], knot.tangent, knot.arc + step)
        if new is None or float(new.knot.tangent @ knot.tangent) < 0.9:
            return step / 2.0
        if new.behind < BEHIND * step and step > 10 * SHORTEST_STEP * self.size:
            return step / 2.0
        if stand.bordered.keeps_orientation(new.bordered) < 1.0:
            return step / 2.0
        return new, landed[3]


def _node_of(path: Path, knot: Knot, reference: Floats) -> Node | None:
    """A knot as a state by progress, closed exactly."""
    way = path.system.unknown_rates(knot.poses - reference)
    around = Surroundings(path, reference).with_node(knot.p, way, 1e-3 * path.system.mechanism.size)
    return None if around is None else around.nodes[-1]


def _knot_of(
    path: Path, p: float, arc: float, poses: Floats, first: Floats, second: Floats
) -> Knot:
    """A knot from rates (B, 3) by progress."""
    tangents, bends, _, _ = by_arc(path, first[None], second[None])
    return Knot(arc, poses, p, tangents[0], bends[0])


def _dead_point(
    walk: Follower, knots: list[Knot], until: float, bridges: list[Bridge]
) -> BranchPath:
    """Locate where progress stands still between the last two knots, and end there."""
    before = knots[-2]
    low, high = 0.0, knots[-1].arc - before.arc
    low_value, high_value = float(before.tangent[-1]), float(knots[-1].tangent[-1])
    best = knots[-1]
    for _ in range(60):
        step = low + (high - low) * low_value / (low_value - high_value)
        step = min(max(step, low + 0.01 * (high - low)), high - 0.01 * (high - low))
        guess = step * before.tangent + 0.5 * step * step * before.bend
        landed = walk.correct(*walk.place(before.poses, before.p, guess), before.tangent)
        factors = None if landed is None else walk.tangent(landed[2], before.tangent)
        if landed is None or factors is None:
            break
        tangent, bordered = factors
        bend = walk.bend(landed[0], tangent, bordered)
        best = Knot(before.arc + step, landed[0], landed[1], tangent, bend)
        slope = float(tangent[-1])
        if abs(slope) < 1e-9 or high - low < 1e-12 * walk.size:
            break
        if slope > 0:
            low, low_value = step, slope
        else:
            high, high_value = step, slope
    knots[-1] = best
    if best.p >= until:
        return BranchPath(
            walk.path, tuple(knots), walk.p_scale, End.COMPLETE, until, tuple(bridges)
        )
    return BranchPath(walk.path, tuple(knots), walk.p_scale, End.DEAD_POINT, best.p, tuple(bridges))
