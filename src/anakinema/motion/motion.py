"""The motion of a mechanism along its program: the value that everything later asks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.blocks import BlockInverse
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.solve import apply
from anakinema.mechanism.system import System
from anakinema.motion.branch_path import BranchPath, End, Path
from anakinema.motion.dense import Solved, batch_size, inverses, positions, solve, solve_all
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
    speed_most: Floats
    """(N, B, 3) bound on rates within ``reach`` of the progress; NaN where there is none."""
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
            self.speed_most[keep],
            self.residual,
        )


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class Motion:
    """Samples along the program, N of them, in order of progress.

    progress (N,): stage index plus share of the stage. poses (N, B, 3) mm, mm, rad.
    values (N, K) shown joint values, rad or mm. first, second (N, B, 3) and value_first,
    value_second (N, K): rates by progress, NaN where the pose is singular. ``end`` says why the
    motion ends at ``progress[-1]``.
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

    def at(self, progress: Floats, reach: Floats | float = 0.0) -> States:
        """Exact states at any progress (N,), each with its loops closed.

        ``reach`` (N,): if above zero, rates are also bounded over progress ± reach.
        """
        wanted = np.atleast_1d(np.asarray(progress, dtype=np.float64))
        if not self.segments:
            return self.samples.taken(self._nearest(wanted))
        return _states(self, wanted, np.broadcast_to(np.asarray(reach, float), wanted.shape))

    def moving_at(self, progress: Floats, reach: Floats | float = 0.0) -> States:
        """The same of bodies only, columns of joints left out: a third of the work less."""
        if not self.segments:
            return self.at(progress, reach)
        return _states(self, progress, np.broadcast_to(reach, progress.shape), joints=False)

    def poses_at(self, progress: Floats) -> Floats:
        """(N, B, 3) exact poses at any progress (N,), without rates."""
        if not self.segments:
            return self.poses[self._nearest(np.asarray(progress))]
        samples = np.minimum(np.searchsorted(self.progress, progress), len(self.progress) - 1)
        if (self.progress[samples] == progress).all():
            return self.poses[samples]
        poses = np.empty((len(progress), *self.poses.shape[1:]))
        for segment, members, local in self.by_segment(np.asarray(progress)):
            poses[members] = positions(segment.branch_path, local)
        return poses

    def _nearest(self, progress: Floats) -> Indices:
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
        join(lambda s: s.speed_most),
        max(part.residual for part in parts),
    )


def _states(motion: Motion, progress: Floats, reach: Floats, *, joints: bool = True) -> States:
    legs = motion.by_segment(progress)
    shift = motion.shift if joints else None
    found = stretch_states(
        motion.mechanism,
        shift,
        [Stretch(segment, local, reach[members]) for segment, members, local in legs],
    )
    order = np.concatenate([members for _, members, _ in legs])
    return found if (order[1:] > order[:-1]).all() else found.taken(np.argsort(order))


@dataclass(frozen=True, slots=True, eq=False)
class Stretch:
    """Progress ``local`` (N,) of one segment's stage, and ``reach`` (N,) around each that bounds of
    rates are to hold for, 0 for no bounds."""

    segment: Segment
    local: Floats
    reach: Floats


def stretch_states(mechanism: Mechanism, shift: Floats | None, stretches: list[Stretch]) -> States:
    """States at all progress of some stretches, one after the other.

    ``shift``: from raw values of joints to those shown; None leaves joints out.
    """
    found = [_batch_states(mechanism, shift, batch) for batch in _batches(stretches)]
    return found[0] if len(found) == 1 else joined(found)


def _batches(stretches: list[Stretch]) -> list[list[Stretch]]:
    """Stretches to be solved together: under the same equations, and not too many at once."""
    batches: list[list[Stretch]] = []
    for stretch in stretches:
        system = stretch.segment.branch_path.path.system
        most = batch_size(system, closed=stretch.segment.branch_path.path.dyads is not None)
        for k in range(0, max(len(stretch.local), 1), most):
            rows = slice(k, k + most)
            piece = replace(stretch, local=stretch.local[rows], reach=stretch.reach[rows])
            last = batches[-1] if batches else []
            load = sum(len(each.local) for each in last) + len(piece.local)
            if last and load <= most and system.is_like(last[0].segment.branch_path.path.system):
                last.append(piece)
            else:
                batches.append([piece])
    return batches


def _batch_states(mechanism: Mechanism, shift: Floats | None, batch: list[Stretch]) -> States:
    still_wanted()
    at = solve_all([(each.segment.branch_path, each.local) for each in batch])
    reach = np.concatenate([each.reach for each in batch])
    values = value_first = value_second = np.empty((len(reach), 0))
    if shift is not None:
        raw, value_first, value_second = mechanism.values_and_rates(at.poses, at.first, at.second)
        ends = np.cumsum([len(each.local) for each in batch])[:-1]
        values = shift + np.concatenate(
            [
                each.segment.running(mechanism, each.local, part)
                for each, part in zip(batch, np.split(raw, ends), strict=True)
            ]
        )
    system = batch[0].segment.branch_path.path.system
    return States(
        progress=np.concatenate([each.segment.stage + each.local for each in batch]),
        poses=at.poses,
        first=at.first,
        second=at.second,
        values=values,
        value_first=value_first,
        value_second=value_second,
        speed_most=speed_bounds(system, at, reach) if reach.any() else np.abs(at.first),
        residual=float(at.residual.max(initial=0.0)),
    )


LARGE = 90
"""Unknowns from which on speeds are bounded block by block: for fewer the whole inverse, whose
bounds are closer, costs little more."""
TRIED = 6
"""Poses at which the whole inverse is tried first: where it bounds none, it is left at that."""


def speed_bounds(system: System, at: Solved, reach: Floats) -> Floats:
    """(N, B, 3) bounds on the rates over progress ± ``reach`` (N,), NaN where none is found.

    With P the inverse equations at the sample, v its rate and c(V) the most that J·v can change
    while speeds stay within V: any V with |v| + |P| c(V) <= V bounds the rates over the whole
    stretch. Proof in docs/methods.md, "Certified speeds".
    """
    open_ = np.asarray(np.isfinite(at.first).all(axis=(1, 2)))
    blocks = system.block_inverse(at.poses)
    most = batch_size(system)
    if blocks is None and len(reach) > most:
        # Whole matrices are not made for more poses at once.
        parts = [np.arange(k, min(k + most, len(reach))) for k in range(0, len(reach), most)]
        return np.concatenate([speed_bounds(system, at.taken(p), reach[p]) for p in parts])
    if blocks is None:
        magnitude = np.abs(inverses(system, at.poses) if at.inverses is None else at.inverses)

        def settled(rows: Indices, c: Floats) -> Floats:
            return apply(magnitude if len(rows) == len(magnitude) else magnitude[rows], c)

        return _bounded(system, at, reach, open_, settled)
    bound, left = np.full_like(at.first, np.nan), np.arange(len(reach))
    tried = left[:0]
    if system.unknowns >= LARGE:

        def by_blocks(rows: Indices, c: Floats) -> Floats:
            return blocks.taken(rows).most_changes(c)

        bound = _bounded(system, at, reach, open_, by_blocks)
        # Along a long chain these may run away where those of the whole inverse do not.
        left = np.flatnonzero(open_ & np.isnan(bound).any(axis=(1, 2)))
        tried = left[:: -(-len(left) // TRIED) or 1]
    rest = np.setdiff1d(left, tried)
    for some in (tried, *(rest[k : k + most] for k in range(0, len(rest), most))):
        if not len(some):
            continue
        still_wanted()
        bound[some] = _by_whole_inverse(system, blocks.taken(some), at.taken(some), reach[some])
        if some is tried and np.isnan(bound[some]).any(axis=(1, 2)).all():
            break
    return bound


def _by_whole_inverse(system: System, blocks: BlockInverse, at: Solved, reach: Floats) -> Floats:
    """(N, B, 3) bounds on the rates by the whole inverse that blocks make."""
    whole = blocks.whole()
    np.abs(whole, out=whole)

    def change(rows: Indices, c: Floats) -> Floats:
        return blocks.order.applied(whole if len(rows) == len(whole) else whole[rows], c)

    open_ = np.asarray(np.isfinite(at.first).all(axis=(1, 2)))
    return _bounded(system, at, reach, open_, change)


def _bounded(
    system: System,
    at: Solved,
    reach: Floats,
    open_: npt.NDArray[np.bool_],
    most_changes: Callable[[Indices, Floats], Floats],
) -> Floats:
    """(N, B, 3) bounds on the rates, NaN where none is found or not ``open_`` (N,).

    ``most_changes`` gives how much a solution can change (M, n) at some rows (M,), where equations
    change by up to (M, R).
    """
    scale = np.array([1.0, 1.0, system.mechanism.size])
    speed, open_ = np.abs(at.first), open_.copy()
    most = 1.02 * speed + 1e-9
    bound = np.full_like(speed, np.nan)
    for _ in range(8):
        rows = np.flatnonzero(open_)
        if not len(rows):
            break
        change = system.change_bound(at.poses[rows], most[rows], reach[rows])
        needed = speed[rows] + system.scaled_rates(most_changes(rows, change))
        holds = (needed * scale <= most[rows] * scale).all(axis=(1, 2))
        # What is needed bounds the rates as well, and says how little they change.
        bound[rows[holds]] = needed[holds]
        most[rows[~holds]] = 1.1 * needed[~holds] + 1e-9
        # Bounds that run away will not be met by more rounds.
        runs = (needed > 1e3 * speed[rows].max(axis=(1, 2), keepdims=True) + 1.0).any((1, 2))
        open_[rows[holds | runs]] = False
    return bound
