"""The motion of a mechanism along its program: the value that everything later asks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.system import System
from anakinema.motion.branch_path import BranchPath, End, Path
from anakinema.motion.dense import Solved, batch_size, positions, solve, solve_all
from anakinema.motion.mobility import Mobility
from anakinema.motion.timing import Timing
from anakinema.wanted import still_wanted


class EventKind(Enum):
    """What can happen along a motion."""

    LIMIT = "limit"
    SLOT_END = "end of its slot"
    LEAVES = "leaves its guide"
    EXTREME = "extreme"
    DEAD_POINT = "dead point"
    CHANGE_POINT = "change point"
    STOP = "stop"
    TOUCH = "touch"
    RELEASE = "touch lost"
    DROP = "drop"
    TOOTH = "tooth passed"
    JAM = "jam"
    BLOCKED = "blocked"
    LOST = "cannot close"
    UNDECIDED = "undecided"


@dataclass(frozen=True, slots=True)
class Event:
    """Something located on the motion. ``joint`` and ``value`` (shown, rad or mm) if it has any.

    ``side`` is +1 for a greatest value, -1 for a least. ``bodies`` touch; of a drop ``value`` is
    its height, and ``joint`` falls; of a stop ``joint`` is the driver it blocks, ``value`` how far
    that came in its stage. ``loops``: the bodies of each loop that could go another way at a
    change point.
    """

    kind: EventKind
    progress: float
    joint: int | None = None
    value: float | None = None
    side: int = 0
    bodies: tuple[int, int] | None = None
    loops: tuple[tuple[int, ...], ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class Segment:
    """A stretch of one stage that was followed under one system of equations."""

    stage: int
    branch_path: BranchPath
    first: float
    last: float
    runs: Floats
    """(K,) added to raw joint values at its first knot to run on from the segment before."""

    def running(self, mechanism: Mechanism, local: Floats, raw: Floats) -> Floats:
        """Raw values (N, K) at progress ``local`` (N,), those known up to a period counted on."""
        around = np.flatnonzero(mechanism.period)
        if not len(around):
            return raw + self.runs
        period = mechanism.period[around]
        knots = mechanism.values(self.branch_path.knot_poses)[:, around]
        jumps = np.round(np.diff(knots, axis=0) / period)
        knots[1:] -= period * np.cumsum(jumps, axis=0)
        near = np.stack(
            [np.interp(local, self.branch_path.progress, column) for column in knots.T], axis=1
        )
        out = raw.copy()
        out[:, around] += period * np.round((near - raw[:, around]) / period)
        return np.asarray(out + self.runs)


def runs_on(mechanism: Mechanism, segments: list[Segment], poses: Floats) -> Floats:
    """(K,) what is added to the raw values at a pose to run on from the segments before."""
    if not segments or not mechanism.period.any():
        return np.zeros(len(mechanism.zero))
    segment, raw = segments[-1], mechanism.values(poses)
    end = np.array([segment.last])
    last = segment.running(mechanism, end, mechanism.values(positions(segment.branch_path, end)))[0]
    turns = np.zeros(len(raw))
    around = np.flatnonzero(mechanism.period)
    period = mechanism.period[around]
    turns[around] = period * np.round((last - raw)[around] / period)
    return turns


def came_with(segments: list[Segment], path: Path) -> Floats | None:
    """(B, 3) rates by a path's progress with which the segments before come to its start.

    None if nothing was moved, or the drivers move in another ratio from there on.
    """
    if not segments:
        return None
    before = segments[-1].branch_path.path
    old, new = before.end - before.start, path.end - path.start
    share = float(old @ new) / (float(old @ old) or 1.0)
    if share == 0.0 or float(np.abs(new - share * old).max()) > 1e-9 * float(np.abs(new).max()):
        return None
    rates = solve(segments[-1].branch_path, np.array([segments[-1].last])).first[0]
    return share * rates if np.isfinite(rates).all() else None


@dataclass(frozen=True, slots=True, eq=False)
class States:
    """Poses, rates by progress and everything about joints at some progress (N,)."""

    progress: Floats
    poses: Floats
    first: Floats
    second: Floats
    values: Floats
    value_first: Floats
    value_second: Floats
    residual: float

    def taken(self, keep: npt.NDArray[np.bool_] | Indices) -> States:
        """Some of the states."""
        return States(
            self.progress[keep],
            self.poses[keep],
            self.first[keep],
            self.second[keep],
            self.values[keep],
            self.value_first[keep],
            self.value_second[keep],
            self.residual,
        )


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class Motion:
    """Samples along the program, N of them, in order of progress.

    progress (N,): stage index plus share of the stage. poses (N, B, 3) mm, mm, rad.
    values (N, K) shown joint values, rad or mm. first, second (N, B, 3) and value_first,
    value_second (N, K): rates by progress, NaN where the pose is singular. ``end`` says why the
    motion ends at ``progress[-1]``. ``reach`` (N,): the progress before and after each sample that
    it answers for.
    """

    mechanism: Mechanism
    mobility: Mobility
    segments: tuple[Segment, ...]
    shift: Floats
    driver_joints: tuple[int, ...]
    timing: Timing
    samples: States
    reach: Floats
    events: tuple[Event, ...]
    end: End
    stages: int

    @property
    def progress(self) -> Floats:
        """(N,) progress of the samples."""
        return self.samples.progress

    @property
    def poses(self) -> Floats:
        """(N, B, 3) poses of the samples."""
        return self.samples.poses

    @property
    def values(self) -> Floats:
        """(N, K) shown joint values of the samples."""
        return self.samples.values

    @property
    def last(self) -> float:
        """Progress at which the motion ends."""
        return float(self.progress[-1])

    def __repr__(self) -> str:
        return (
            f"<Motion {len(self.progress)} samples, {self.poses.shape[1]} bodies,"
            f" {len(self.events)} events, ends: {self.end.value}>"
        )

    def stage_of(self, progress: Floats) -> Indices:
        """(N,) stage that owns each progress; a boundary belongs to the stage before it."""
        whole = np.ceil(np.asarray(progress) - 1e-12).astype(np.int64) - 1
        return np.clip(whole, 0, max(0, self.stages - 1))

    def time(self, progress: Floats) -> Floats:
        """(N,) seconds since the start of the program."""
        stage = self.stage_of(progress)
        return self.timing.time(stage, np.asarray(progress) - stage)

    def progress_rates(self, progress: Floats) -> tuple[Floats, Floats]:
        """(N,) progress per second and per second squared."""
        stage = self.stage_of(progress)
        return self.timing.rates(stage, np.asarray(progress) - stage)

    def at(self, progress: Floats) -> States:
        """Exact states at any progress (N,), each with its loops closed."""
        wanted = np.atleast_1d(np.asarray(progress, dtype=np.float64))
        if not self.segments:
            return self.samples.taken(self.nearest(wanted))
        return _states(self, wanted, self.shift)

    def moving_at(self, progress: Floats) -> States:
        """The same of bodies only, columns of joints left out: a third of the work less."""
        return _states(self, progress, None) if self.segments else self.at(progress)

    def poses_at(self, progress: Floats) -> Floats:
        """(N, B, 3) exact poses at any progress (N,), without rates."""
        if not self.segments:
            return self.poses[self.nearest(np.asarray(progress))]
        samples = np.minimum(np.searchsorted(self.progress, progress), len(self.progress) - 1)
        if (self.progress[samples] == progress).all():
            return self.poses[samples]
        poses = np.empty((len(progress), *self.poses.shape[1:]))
        for segment, members, local in self.by_segment(np.asarray(progress)):
            poses[members] = positions(segment.branch_path, local)
        return poses

    def nearest(self, progress: Floats) -> Indices:
        """Nearest samples, all there is to show of a preview or a still mechanism."""
        middles = (self.progress[1:] + self.progress[:-1]) / 2
        return np.searchsorted(middles, progress)

    def segment_at(self, progress: float) -> Segment:
        """The segment that owns a progress; there must be segments."""
        return self.by_segment(np.array([progress]))[0][0]

    def by_segment(self, progress: Floats) -> list[tuple[Segment, Indices, Floats]]:
        """Legs, which of the progress (N,) they own, and that progress within their stage."""
        segment_of = np.zeros(len(progress), dtype=np.int64)
        for k, segment in enumerate(self.segments):
            segment_of[progress > segment.stage + segment.first + 1e-12] = k
        out = []
        for k, segment in enumerate(self.segments):
            members = np.flatnonzero(segment_of == k)
            if len(members):
                local = np.clip(progress[members] - segment.stage, segment.first, segment.last)
                out.append((segment, members, local))
        return out

    def until(self, progress: float, end: End) -> Motion:
        """The same motion stopped at an earlier progress, with a sample exactly there."""
        keep = self.progress < progress - 1e-12
        last = self.at(np.array([progress]))
        samples = joined([self.samples.taken(keep), last])
        reach = np.append(self.reach[keep], 0.0)
        return replace(self, samples=samples, reach=reach, end=end)


def joined(parts: list[States]) -> States:
    """All the states of some, one after the other."""
    if len(parts) == 1:
        return parts[0]

    def join(pick: Callable[[States], Floats]) -> Floats:
        return np.concatenate([pick(part) for part in parts])

    return States(
        join(lambda s: s.progress),
        join(lambda s: s.poses),
        join(lambda s: s.first),
        join(lambda s: s.second),
        join(lambda s: s.values),
        join(lambda s: s.value_first),
        join(lambda s: s.value_second),
        max(part.residual for part in parts),
    )


def _states(motion: Motion, progress: Floats, shift: Floats | None) -> States:
    legs = motion.by_segment(progress)
    found = stretch_states(
        motion.mechanism, shift, [Stretch(segment, local) for segment, _, local in legs]
    )
    order = np.concatenate([members for _, members, _ in legs])
    return found if (order[1:] > order[:-1]).all() else found.taken(np.argsort(order))


@dataclass(frozen=True, slots=True, eq=False)
class Stretch:
    """Progress ``local`` (N,) of one segment's stage."""

    segment: Segment
    local: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Batch:
    """Stretches one after the other, under the same equations, that are solved together."""

    system: System
    stretches: list[Stretch]

    def __len__(self) -> int:
        return sum(len(each.local) for each in self.stretches)

    def solved(self) -> Solved:
        """Exact poses and rates at all its progress."""
        still_wanted()
        return solve_all([(each.segment.branch_path, each.local) for each in self.stretches])

    def states(self, mechanism: Mechanism, shift: Floats | None, at: Solved) -> States:
        """What was solved, with what it means for joints as `stretch_states` has it."""
        values = value_first = value_second = np.empty((len(at.poses), 0))
        if shift is not None:
            raw, value_first, value_second = mechanism.values_and_rates(
                at.poses, at.first, at.second
            )
            ends = np.cumsum([len(each.local) for each in self.stretches])[:-1]
            values = shift + np.concatenate(
                [
                    each.segment.running(mechanism, each.local, part)
                    for each, part in zip(self.stretches, np.split(raw, ends), strict=True)
                ]
            )
        return States(
            progress=np.concatenate([each.segment.stage + each.local for each in self.stretches]),
            poses=at.poses,
            first=at.first,
            second=at.second,
            values=values,
            value_first=value_first,
            value_second=value_second,
            residual=float(at.residual.max(initial=0.0)),
        )


def stretch_states(mechanism: Mechanism, shift: Floats | None, stretches: list[Stretch]) -> States:
    """States at all progress of some stretches, one after the other.

    ``shift``: from raw values of joints to those shown; None leaves joints out.
    """
    return joined([batch.states(mechanism, shift, batch.solved()) for batch in batches(stretches)])


def batches(stretches: list[Stretch]) -> list[Batch]:
    """Stretches, one after the other, cut and joined into what is not too much at once."""
    out: list[Batch] = []
    for stretch in stretches:
        system = stretch.segment.branch_path.path.system
        most = batch_size(system, closed=stretch.segment.branch_path.path.dyads is not None)
        for k in range(0, max(len(stretch.local), 1), most):
            piece = Stretch(stretch.segment, stretch.local[k : k + most])
            last = out[-1] if out else None
            if last and len(last) + len(piece.local) <= most and system.is_like(last.system):
                last.stretches.append(piece)
            else:
                out.append(Batch(system, [piece]))
    return out
