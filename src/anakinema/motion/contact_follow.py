"""Follow a stage in which bodies touch: pushed, falling back, in touch by choice, or stopped.

Yielding joints are at rest or lean on one thing each, so between two events the mechanism is an
ordinary one: a yielding joint is held, or a touch is one more condition. At an event a look a
little ahead decides what leans on what from there: what would overlap is pushed away from its
rest, what is free falls towards it, and where neither helps the mechanism is jammed.
Method: docs/methods.md, "Contact".

One long class: every decision at an event looks at all that leans, rests and yields at once.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import relative_poses
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.system import Hold, System
from anakinema.mechanism.touch import Touch
from anakinema.motion.assemble import close
from anakinema.motion.branch_path import BranchPath, End, Path
from anakinema.motion.contact_events import LOOSE, Change, Pairing, Watch, first_change
from anakinema.motion.dense import positions, solve
from anakinema.motion.follow import follow
from anakinema.motion.motion import Event, EventKind, Segment, came_with, runs_on
from anakinema.motion.standing import Standing, gaps_now, keep_by, kept_touches

AHEAD = 1e-6
"""Way of what moves fastest, as a share of the smallest body in contact, by which a look ahead
decides what leans on what; at most so much progress."""
KEPT = 1e-4
"""Progress by which what is kept in touch must go on to be so."""
DEEP = 1e-4
"""Share of the smallest body in contact that bodies may overlap by in a look ahead."""
GIVES = 5e-3
"""Share of it that something may give way or fall back by in a look ahead: where a surface lies
along the way of what leans on it, that goes with the root of the look."""
EXACT = 1e-11
"""Share of the size to which a look ahead closes gaps."""
NO_FALL = 1e-6
"""Share of the smallest body in contact; a fall of less is none."""
TRIED = 1e-3
"""Share of it that a neighbouring feature is tried along."""
MEETS = 1e-6
"""Share of it within which neighbouring features meet."""
ROUNDS = 24
MOST_CHANGES = 4000
MOST_STUCK = 6
"""Changes at one progress after which nothing goes on."""
FIRST_HORIZON = 0.25
FARTHEST = 4.0
"""Sizes that a path is followed at once: beyond the end of a flat it may run off without end."""
SHORTEST_HORIZON = 0.02
CLOSER = 6.0
"""How much farther than the stretch before a path is followed at once."""


@dataclass(frozen=True, slots=True, eq=False)
class _Ahead:
    """A look ahead: poses there, raw values of yielding joints, what leans on what; or why not."""

    values: Floats
    leaning: dict[int, Pairing]
    jammed: Pairing | None = None
    falls: int | None = None


def _heading(branch_path: BranchPath, p: float) -> Floats:
    """(B, 3) the direction in which the bodies move at progress p."""
    rates: Floats = solve(branch_path, np.array([p])).first[0]
    if np.isfinite(rates).all():
        return rates
    knot = branch_path.knots[int(np.argmin(np.abs(branch_path.progress - p)))]
    return branch_path.path.system.scaled_rates(knot.tangent[:-1])


@dataclass(frozen=True, slots=True, eq=False)
class _Travel:
    """A stage by its index, with the raw driver values (D,) that it goes from and to."""

    index: int
    start: Floats
    end: Floats

    @property
    def way(self) -> Floats:
        """(D,) by how much the drivers move."""
        return self.end - self.start


class ContactWalk:
    """Follows stages of a program under contact, gathering segments and events."""

    def __init__(
        self,
        mechanism: Mechanism,
        drivers: tuple[int, ...],
        holds: tuple[Hold, ...],
        shift: Floats,
        standing: Standing,
    ) -> None:
        self.mechanism, self.drivers = mechanism, drivers
        self.facings = mechanism.facings
        self.yields = tuple(k for k, _ in mechanism.yields if k not in drivers)
        self.stays = {k for k, rest in mechanism.yields if rest is None}
        self.rest = {
            k: 0.0 if rest is None else rest - float(shift[k]) for k, rest in mechanism.yields
        }
        self.holds = tuple(h for h in holds if h.kind != "value" or h.index not in self.yields)
        self.scale = {k: mechanism.size if mechanism.angular[k] else 1.0 for k in self.yields}
        self.standing = standing
        self.extent = min((facing.extent for facing in self.facings), default=mechanism.size)
        self.segments: list[Segment] = []
        self.events: list[Event] = []
        self.horizon = FIRST_HORIZON

    # Starting ------------------------------------------------------------------------------

    def begin(self, poses: Floats) -> Floats:
        """The pose with every yielding joint as near to its rest as what touches permits."""
        for joint in self.yields:
            if joint not in self.stays:
                poses = self._fallen(joint, poses, None)
        return poses

    # One stage -----------------------------------------------------------------------------

    def stage(self, index: int, start: Floats, end: Floats, poses: Floats) -> tuple[End, Floats]:
        """Follow raw driver values from ``start`` to ``end`` (D,); why it ended, and where."""
        travel = _Travel(index, start, end)
        ended, poses = self._decide(travel, 0.0, poses, None)
        if ended is not None:
            return ended, poses
        p, heading, stuck = 0.0, None, 0
        for _ in range(MOST_CHANGES):
            path = self._path(travel, poses)
            branch_path = follow(
                path,
                poses,
                p=p,
                until=min(1.0, p + self.horizon),
                most=FARTHEST * self.mechanism.size,
                prior=self._came(path),
                heading=heading,
            )
            stop = min(branch_path.end_p, 1.0)
            change = None
            if len(branch_path.knots) > 1 and stop > p:
                rests, turns = self._rests()
                watch = Watch(self.mechanism, self.facings, self.standing.active, rests, turns)
                change = first_change(branch_path, watch, p, stop)
                stop = stop if change is None else change.p
            stuck = 0 if stop > p + 1e-12 else stuck + 1
            if stop > p + 1e-13 and len(branch_path.knots) > 1:
                self._add(index, branch_path, p, stop, poses)
                poses = positions(branch_path, np.array([stop]))[0]
                heading = _heading(branch_path, stop)
            self.horizon = min(1.0, max(CLOSER * (stop - p), SHORTEST_HORIZON))
            p = stop
            if p >= 1.0 - 1e-12:
                return End.COMPLETE, poses
            if change is None and branch_path.end is End.COMPLETE:
                continue
            if stuck > MOST_STUCK:
                self._stop(EventKind.JAM, travel, p, next(iter(self.standing.active), None))
                return End.TOUCHED, poses
            if change is None and branch_path.end is End.DEAD_POINT and self.standing.leaning:
                ended, poses = self._turned_back(travel, p, poses, heading)
            elif change is not None and self._passed_on(change, travel, p, poses, heading):
                poses = self._settled(travel, p, poses)
                continue
            else:
                ended, poses = self._decide(travel, p, poses, change)
            if ended is not None:
                return ended, poses
            if change is None and self._same(path):
                return branch_path.end, poses
        return End.LOST, poses

    def _came(self, path: Path) -> Floats | None:
        return came_with(self.segments, path)

    def _turned_back(
        self, travel: _Travel, p: float, poses: Floats, heading: Floats | None
    ) -> tuple[End | None, Floats]:
        """Where a surface turns back under what leans on it: what goes to its rest falls, what is
        pushed from it jams."""
        for joint, pairing in list(self.standing.leaning.items()):
            if joint in self.stays or heading is None:
                continue
            still = np.zeros_like(heading)
            value, rate, _ = self.mechanism.values_and_rates(poses, heading, still)
            away = float(value[joint]) - self.rest[joint]
            if float(rate[joint]) * away < 0.0:
                fallen = self._fallen(joint, poses, travel.index + p, pairing)
                return self._decide(travel, p, fallen, None)
        stuck = next(iter(self.standing.leaning.values()))
        self._stop(EventKind.JAM, travel, p, stuck)
        return End.TOUCHED, poses

    def _passed_on(
        self, change: Change, travel: _Travel, p: float, poses: Floats, heading: Floats | None
    ) -> bool:
        """Whether what leans goes on to lean by the neighbouring feature, which it then does.

        Tried by following the path with it a little way, so that a surface which stands upright
        where the two features meet is no hindrance.
        """
        ended = change.ended
        joint = next((j for j, a in self.standing.leaning.items() if a == ended), None)
        if ended is None or joint is None:
            return False
        facing = self.facings[ended.facing]
        gap, margin = gaps_now(facing, poses)
        near = facing.neighbours(ended.pair)
        near = near[(near != ended.pair) & (np.abs(gap[near]) < MEETS * facing.extent)]
        near = near[margin[near] > -1e-5]
        for k in near[np.argsort(np.abs(gap[near]))].tolist():
            if facing.touch(k) is None:
                continue
            self.standing.leaning[joint] = Pairing(ended.facing, k)
            if self._leads_on(joint, travel, p, poses, heading):
                return True
        self.standing.leaning[joint] = ended
        return False

    def _leads_on(
        self, joint: int, travel: _Travel, p: float, poses: Floats, heading: Floats | None
    ) -> bool:
        """Whether the path on which a joint leans as it does now goes on from progress p."""
        pairing = self.standing.leaning[joint]
        path = self._path(travel, poses)
        closed = close(path.system, poses, path.targets(p))
        if not closed.is_closed:
            return False
        branch_path = follow(
            path, closed.poses, p=p, until=2.0, most=TRIED * self.extent, heading=heading
        )
        if len(branch_path.knots) < 2 or branch_path.knots[-1].p <= p:
            return False
        if joint in self.stays:
            # What stays where it is pushed is pushed on, or left behind.
            least = MEETS * TRIED * self.extent
            before, after = self.mechanism.values(branch_path.knot_poses[[0, -1]])[:, joint]
            if (after - before) * self.standing.pushed[joint] * self.scale[joint] <= least:
                return False
        facing = self.facings[pairing.facing]
        for knot in branch_path.knots[1:]:
            gap, margin = gaps_now(facing, knot.poses)
            if margin[pairing.pair] < -LOOSE:
                return False
            others = facing.neighbours(pairing.pair)
            others = others[others != pairing.pair]
            past = others[(margin[others] > 0.0) & (gap[others] < -MEETS * facing.extent)]
            seen = relative_poses(*(knot.poses[None, b] for b in facing.bodies))[0]
            if any(facing.overlaps(int(k), seen, MEETS * facing.extent / 2) for k in past):
                return False
        return True

    def _same(self, path: Path) -> bool:
        return path.system.touches == self._touches()

    def _path(self, travel: _Travel, poses: Floats) -> Path:
        held = tuple(Hold("value", k) for k in self.yields if k not in self.standing.leaning)
        system = System(self.mechanism, self.drivers, (*held, *self.holds), self._touches())
        return Path(system, travel.start, travel.end, poses)

    def _touches(self) -> tuple[Touch, ...]:
        found = (self.facings[a.facing].touch(a.pair) for a in self.standing.leaning.values())
        leaning = (touch for touch in found if touch is not None)
        return (*leaning, *kept_touches(self.mechanism, self.standing))

    def _commanded(self) -> System:
        """The mechanism with its drivers and every yielding joint commanded."""
        kept = kept_touches(self.mechanism, self.standing)
        return System(self.mechanism, (*self.drivers, *self.yields), self.holds, kept)

    def _rests(self) -> tuple[Mapping[int, tuple[float, float]], Mapping[int, float]]:
        """Rests of what is pushed away from them, and the ways that the others are pushed."""
        pushed = self.standing.pushed
        returning = [j for j in self.standing.leaning if j not in self.stays]
        staying = [j for j in self.standing.leaning if j in self.stays]
        return {j: (self.rest[j], pushed[j]) for j in returning}, {j: pushed[j] for j in staying}

    def _add(
        self, index: int, branch_path: BranchPath, begin: float, end: float, poses: Floats
    ) -> None:
        runs = runs_on(self.mechanism, self.segments, poses)
        self.segments.append(Segment(index, branch_path, begin, end, runs))

    # What leans on what from here ------------------------------------------------------------

    def _decide(
        self, travel: _Travel, p: float, poses: Floats, change: Change | None
    ) -> tuple[End | None, Floats]:
        """Set what leans on what from progress p on; an `End` if nothing goes on."""
        progress = travel.index + p
        values = self.mechanism.values(poses)
        self.rest.update({joint: float(values[joint]) for joint in self.stays})
        before = dict(self.standing.leaning)
        if change is not None and change.touched is not None:
            facing = self.facings[change.touched.facing]
            if facing.spec.stops or not self._can_yield(change.touched, poses):
                stops = EventKind.JAM if facing.spec.pushes else EventKind.STOP
                self._stop(stops, travel, p, change.touched)
                return End.TOUCHED, poses
        ended = change is not None and change.ended is not None
        if change is not None and ended and not self._keep(change, travel, p, poses):
            self._tell(EventKind.RELEASE, progress, change.ended)
            return End.TOUCHED, poses
        for _ in range(8):
            ahead = self._ahead(travel, p, poses)
            if ahead.jammed is not None:
                stops_there = self.facings[ahead.jammed.facing].spec.stops
                stops = EventKind.STOP if stops_there else EventKind.JAM
                self._stop(stops, travel, p, ahead.jammed)
                return End.TOUCHED, poses
            if ahead.falls is None:
                break
            poses = self._fallen(ahead.falls, poses, progress, before.get(ahead.falls))
            before.pop(ahead.falls, None)
        else:
            stuck = next(iter((*before.values(), *self.standing.active)), None)
            self._stop(EventKind.JAM, travel, p, stuck)
            return End.TOUCHED, poses
        self._change_to(ahead, progress, before)
        return None, self._settled(travel, p, poses)

    def _change_to(self, ahead: _Ahead, progress: float, before: dict[int, Pairing]) -> None:
        standing = self.standing
        for joint in self.yields:
            now, was = ahead.leaning.get(joint), standing.leaning.get(joint)
            if now is not None and was is None:
                if progress > 0.0:
                    self._tell(EventKind.TOUCH, progress, now)
            elif was is not None and now is None and joint in before:
                self._tell(EventKind.RELEASE, progress, was)
            if now is None:
                standing.leaning.pop(joint, None)
            else:
                standing.leaning[joint] = now
                away = float(ahead.values[self.yields.index(joint)]) - self.rest[joint]
                standing.pushed[joint] = 1.0 if away >= 0 else -1.0

    def _settled(self, travel: _Travel, p: float, poses: Floats) -> Floats:
        """The pose at p with all that is in touch exactly so."""
        path = self._path(travel, poses)
        closure = close(path.system, poses, path.targets(p))
        return closure.poses if closure.is_closed else poses

    def _keep(self, change: Change, travel: _Travel, p: float, poses: Floats) -> bool:
        """Whether what is kept in touch goes on with its next feature, which it then does."""
        ended = change.ended
        if ended is None or not self.facings[ended.facing].spec.keeps:
            return True
        facing = self.facings[ended.facing]
        gap, margin = gaps_now(facing, poses)
        near = facing.neighbours(ended.pair)
        near = near[(near != ended.pair) & (np.abs(gap[near]) < 1e-6 * self.mechanism.size)]
        near = near[margin[near] > -1e-6]
        able = [k for k in near.tolist() if facing.touch(k) is not None]
        if not able:
            return False
        for k in able:
            keep_by(self.mechanism, self.standing, ended.facing, k, poses)
            path = self._path(travel, poses)
            there = close(path.system, poses, path.targets(p + KEPT))
            _, margins = gaps_now(facing, there.poses)
            if there.is_closed and margins[k] >= -LOOSE:
                return True
        return False

    def _ahead(self, travel: _Travel, p: float, poses: Floats) -> _Ahead:
        """What leans on what a little ahead of progress p."""
        system = self._commanded()
        p = min(p + self._look(system, travel, poses), 1.0)
        drivers = travel.start + p * travel.way
        values = self.mechanism.values(poses)[list(self.yields)]
        here = poses
        pushed: dict[int, float] = {}
        leaning: dict[int, Pairing] = {}
        last = next(iter(self.standing.active), None)
        for _ in range(ROUNDS):
            targets = system.targets(np.concatenate([drivers, values]), poses)
            here = close(system, here, targets).poses
            slopes = self._slopes(system, here)
            worst = self._worst(here, slopes)
            if worst is not None:
                pairing, gap, slope = worst
                move, joint = self._giving(gap, slope, values, pushed)
                if joint is None:
                    return _Ahead(values, leaning, jammed=pairing)
                k = self.yields.index(joint)
                pushed[joint] = 1.0 if move > 0 else -1.0
                values[k] += move
                leaning[joint] = last = pairing
                continue
            moved, falls = self._relaxed(here, slopes, values, leaning)
            if falls is not None:
                return _Ahead(values, leaning, falls=falls)
            if not moved:
                return _Ahead(values, leaning)
        return _Ahead(values, leaning, jammed=last)

    def _look(self, system: System, travel: _Travel, poses: Floats) -> float:
        """Progress of a look ahead: so far that what moves fastest moves a hair."""
        _, jacobian = system.residual_jacobian(poses, np.zeros(system.rows))
        change = np.concatenate([travel.way, np.zeros(len(self.yields))])
        rates = system.scaled_rates(
            system.inverses(jacobian[None])[0] @ system.target_rates(change)
        )
        speed = max(
            (
                float(np.hypot(rates[body, 0], rates[body, 1]) + far * abs(rates[body, 2]))
                for facing in self.facings
                for body, far in zip(facing.bodies, facing.far, strict=True)
            ),
            default=0.0,
        )
        return min(AHEAD, AHEAD * self.extent / speed) if speed > 0.0 else AHEAD

    def _slopes(self, system: System, poses: Floats) -> list[Floats]:
        """(Y, B, 3) how all bodies move by each yielding joint."""
        _, jacobian = system.residual_jacobian(poses, np.zeros(system.rows))
        inverse = system.inverses(jacobian[None])[0]
        first = len(self.mechanism.row_kernel) + len(self.drivers)
        return [
            system.scaled_rates(inverse[:, first + k] * self.scale[joint])
            for k, joint in enumerate(self.yields)
        ]

    def _slope(self, facing: int, pair: int, poses: Floats, slopes: list[Floats]) -> Floats:
        """(Y,) how a gap changes with each yielding joint."""
        chosen = self.facings[facing]
        a, b = chosen.bodies
        pairs = chosen.pairs.taken(np.array([pair]))
        step = 1e-6
        out = []
        for slope in slopes:
            both = np.stack([poses - step * slope, poses + step * slope])
            gap, _ = pairs.gaps(relative_poses(both[:, a], both[:, b]))
            out.append((gap[1, 0] - gap[0, 0]) / (2 * step))
        return np.array(out)

    def _worst(self, poses: Floats, slopes: list[Floats]) -> tuple[Pairing, float, Floats] | None:
        """The deepest overlap, by how much, and how it changes with each yielding joint."""
        size, found = self.mechanism.size, None
        for f, facing in enumerate(self.facings):
            if facing.spec.keeps:
                continue
            gap, margin = gaps_now(facing, poses)
            deep = (gap < -EXACT * size) & (gap > -DEEP * self.extent) & (margin >= -LOOSE)
            if not deep.any():
                continue
            a, b = facing.bodies
            seen = relative_poses(poses[None, a], poses[None, b])[0]
            for k in np.flatnonzero(deep).tolist():
                lower = found is None or gap[k] < found[1]
                if lower and facing.overlaps(k, seen, EXACT * size):
                    found = Pairing(f, k), float(gap[k])
        if found is None:
            return None
        return *found, self._slope(found[0].facing, found[0].pair, poses, slopes)

    def _giving(
        self, gap: float, slope: Floats, values: Floats, pushed: Mapping[int, float]
    ) -> tuple[float, int | None]:
        """Which joint gives way to an overlap and by how much; None if none can.

        A spring or a weight gives way only away from its rest, and before friction does. What is
        pushed pushes on: of several the later one gives way.
        """
        size = self.mechanism.size
        least = 1e-6 * max(1.0, float(np.abs(slope).max(initial=0.0)))
        for joint in sorted(self.yields, key=lambda j: (j in self.stays, -j)):
            k = self.yields.index(joint)
            if abs(slope[k]) <= least:
                continue
            move = -gap / float(slope[k])
            away = float(values[k]) - self.rest[joint]
            side = pushed.get(joint)
            if side is None and abs(away) * self.scale[joint] > 1e-9 * size:
                side = 1.0 if away > 0 else -1.0
            far = abs(move) * self.scale[joint] > GIVES * self.extent
            if not far and (side is None or move * side > 0):
                return move, joint
        return 0.0, None

    def _relaxed(
        self, poses: Floats, slopes: list[Floats], values: Floats, leaning: dict[int, Pairing]
    ) -> tuple[bool, int | None]:
        """Let what is free go towards its rest, as far as what is near permits.

        Gives whether anything moved, and a joint that has nothing near to lean on.
        """
        size = self.mechanism.size
        for k, joint in enumerate(self.yields):
            away = float(values[k]) - self.rest[joint]
            scale = self.scale[joint]
            if abs(away) * scale <= 1e-10 * size:
                values[k] = self.rest[joint]
                leaning.pop(joint, None)
                continue
            back = -1.0 if away > 0 else 1.0
            step, onto = self._room(joint, back, poses, slopes)
            if onto is not None and step * scale <= 4 * EXACT * size:
                leaning[joint] = onto
                continue
            if min(step, abs(away)) * scale > GIVES * self.extent:
                return False, joint
            leaning.pop(joint, None)
            values[k] += back * min(step, abs(away))
            return True, None
        return False, None

    def _room(
        self, joint: int, back: float, poses: Floats, slopes: list[Floats]
    ) -> tuple[float, Pairing | None]:
        """How far a joint can go before the first pair near it touches, and that pair."""
        best: tuple[float, Pairing | None] = (np.inf, None)
        k = self.yields.index(joint)
        for f, facing in enumerate(self.facings):
            if facing.spec.keeps:
                continue
            gap, margin = gaps_now(facing, poses)
            near = (margin >= -LOOSE) & (np.abs(gap) < 2 * GIVES * self.extent)
            for pair in np.flatnonzero(near).tolist():
                slope = float(self._slope(f, pair, poses, slopes)[k]) * back
                if slope < -1e-9 and gap[pair] > -4 * EXACT * self.mechanism.size:
                    step = max(0.0, float(gap[pair])) / -slope
                    if step < best[0]:
                        best = step, Pairing(f, pair)
        return best

    def _can_yield(self, pairing: Pairing, poses: Floats) -> bool:
        slope = self._slope(
            pairing.facing, pairing.pair, poses, self._slopes(self._commanded(), poses)
        )
        return bool(len(slope)) and float(np.abs(slope).max()) > 1e-9

    # Falling ---------------------------------------------------------------------------------

    def _fallen(
        self, joint: int, poses: Floats, progress: float | None, was: Pairing | None = None
    ) -> Floats:
        """A yielding joint let go: it falls towards its rest onto the first thing in its way."""
        values = self.mechanism.values(poses)
        here = float(values[joint])
        away = here - self.rest[joint]
        if abs(away) * self.scale[joint] <= 1e-9 * self.mechanism.size:
            return poses
        self.standing.leaning.pop(joint, None)
        held = tuple(
            Hold("value", k) for k in self.yields if k != joint and k not in self.standing.leaning
        )
        system = System(
            self.mechanism, (*self.drivers, joint), (*held, *self.holds), self._touches()
        )
        begin = values[[*self.drivers, joint]]
        end = begin.copy()
        end[-1] = self.rest[joint]
        branch_path = follow(Path(system, begin, end, poses), poses)
        if len(branch_path.knots) < 2:
            return poses
        stop = min(branch_path.end_p, 1.0)
        watch = Watch(self.mechanism, self.facings, self.standing.active, {})
        change = first_change(branch_path, watch, 0.0, stop)
        if change is not None:
            stop = change.p
        landed: Floats = positions(branch_path, np.array([stop]))[0]
        if change is not None and change.touched is not None:
            self.standing.leaning[joint] = change.touched
            self.standing.pushed[joint] = 1.0 if away > 0 else -1.0
        height = abs(float(self.mechanism.values(landed)[joint]) - here)
        if progress is not None and height * self.scale[joint] > NO_FALL * self.extent:
            onto = change.touched if change is not None else None
            same = onto is not None and was is not None and onto.facing == was.facing
            kind = EventKind.TOOTH if same else EventKind.DROP
            self._tell(kind, progress, onto or was, joint=joint, height=height)
        return landed

    def _stop(self, kind: EventKind, travel: _Travel, p: float, pairing: Pairing | None) -> None:
        """Tell of a stop: which driver it blocks, and how far that came in its stage."""
        moves, progress = travel.way, travel.index + p
        scale = np.where(self.mechanism.angular[list(self.drivers)], self.mechanism.size, 1.0)
        if not len(moves):
            self._tell(kind, progress, pairing)
            return
        lead = int(np.argmax(np.abs(moves) * scale))
        self._tell(kind, progress, pairing, joint=self.drivers[lead], height=p * float(moves[lead]))

    def _tell(
        self,
        kind: EventKind,
        progress: float,
        pairing: Pairing | None,
        *,
        joint: int | None = None,
        height: float | None = None,
    ) -> None:
        bodies = None if pairing is None else self.facings[pairing.facing].bodies
        self.events.append(Event(kind, progress, joint=joint, value=height, bodies=bodies))
