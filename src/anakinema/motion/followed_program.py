"""A mechanism assembled and followed through its program, stage by stage."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from anakinema.document.program_values import ProgramValues
from anakinema.errors import AssemblyError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.belts import drawn_length, wheels_on_axles
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.mechanism.solve import null_space
from anakinema.mechanism.system import Hold, System
from anakinema.mechanism.touch import Touch
from anakinema.motion.assemble import Closure, close, joint_opening
from anakinema.motion.branch_path import BranchPath, End, Path
from anakinema.motion.contact_follow import ContactWalk
from anakinema.motion.crossing import branches
from anakinema.motion.dense import positions
from anakinema.motion.direct import follow_directly
from anakinema.motion.follow import follow
from anakinema.motion.mobility import Mobility, analyse_mobility, choose_holds, holds_at
from anakinema.motion.motion import Event, Segment, came_with, runs_on
from anakinema.motion.singular import staying_free
from anakinema.motion.standing import kept_in_touch, kept_touches
from anakinema.motion.timing import Timing, timing
from anakinema.units import ANGLE, LENGTH

FULL_TURN = 2.0 * math.pi
MOST_LEGS = 40
TRUSTED_MOVE = 0.01
"""Share of size that polishing may move an interpolated pose before the path is redone finer."""


def assemble(mechanism: Mechanism) -> Closure:
    """The nearest assembled pose to the document's; raises `AssemblyError` naming the joint."""
    system = System(mechanism)
    closure = close(system, wheels_on_axles(mechanism.resolved), system.at_rest)
    if closure.is_closed:
        return closure
    _blame_a_loop(mechanism)
    units = mechanism.resolved.units
    joint = closure.joint if closure.joint is not None else 0
    title = mechanism.resolved.document.joints[joint].title
    apart = max(joint_opening(system, closure.poses, joint), closure.open_by)
    raise AssemblyError(
        f"its loop cannot close: the two places stay {units.format(apart, LENGTH)} apart"
        " at the start pose.",
        where=f"joint '{title}'",
        remedy="Change a length, or place the bodies nearer to where they belong.",
    )


def _blame_a_loop(mechanism: Mechanism) -> None:
    """Raise an `AssemblyError` that names a loop if its stated length is what cannot be met."""
    resolved = mechanism.resolved
    stated = [k for k, values in enumerate(resolved.belts) if values.length is not None]
    if not stated:
        return
    plain = resolved.document.model_copy(update={"belts": ()})
    system = System(compile_mechanism(replace(resolved, document=plain, belts=())))
    closure = close(system, resolved.poses, system.at_rest)
    if not closure.is_closed:
        return

    def missed(belt: int) -> float:
        drawn = drawn_length(closure.poses, mechanism.belts[belt])
        return (resolved.belts[belt].length or 0.0) - drawn

    worst = max(stated, key=lambda belt: abs(missed(belt)))
    apart = missed(worst)
    length = resolved.units.format(abs(apart), LENGTH)
    raise AssemblyError(
        f"its stated length is {length} too {'long' if apart > 0 else 'short'} for its wheels,"
        " and nothing moves far enough to take that up.",
        where=f"belt '{resolved.document.belts[worst].title}'",
        remedy="State another length, none for as drawn, or carry a wheel on an arm or a slide.",
    )


@dataclass(frozen=True, slots=True, eq=False)
class FollowedProgram:
    """The followed program before it is sampled: where the branch goes, and where it ends."""

    mechanism: Mechanism
    mobility: Mobility
    poses: Floats
    shift: Floats
    segments: tuple[Segment, ...]
    end: End
    timing: Timing
    events: tuple[Event, ...] = ()

    def shown_turns(self, mechanism: Mechanism) -> Floats:
        """(K,) whole turns that would be added to raw values under other joint limits."""
        return turns_shown(mechanism, mechanism.resolved.program, mechanism.values(self.poses))


def follow_program(mechanism: Mechanism) -> FollowedProgram:
    """Assemble and follow the whole program, whatever the limits. Raises `AssemblyError`."""
    program = mechanism.resolved.program
    start = assemble(mechanism)
    poses, shift = _start_pose(mechanism, program, start.poses)
    yielding = tuple(k for k, _ in mechanism.yields if k not in program.joints)
    standing = kept_in_touch(mechanism, poses)
    kept = kept_touches(mechanism, standing)
    poses = _in_touch(mechanism, program, poses, kept)
    mobility = analyse_mobility(mechanism, poses, (*program.joints, *yielding), kept)
    if not (mechanism.facings or yielding):
        segments, end = _follow_program(mechanism, program, mobility, poses)
        return FollowedProgram(
            mechanism, mobility, poses, shift, tuple(segments), end, timing(program)
        )
    walk = ContactWalk(mechanism, program.joints, mobility.holds, shift, standing)
    poses = walk.begin(poses)
    end = _walk_program(mechanism, program, walk, poses)
    return FollowedProgram(
        mechanism,
        mobility,
        poses,
        shift,
        tuple(walk.segments),
        end,
        timing(program),
        tuple(walk.events),
    )


def _in_touch(
    mechanism: Mechanism, program: ProgramValues, poses: Floats, kept: tuple[Touch, ...]
) -> Floats:
    """Poses at which all that is kept in touch is so, the drivers where they are."""
    if not kept:
        return poses
    system = System(mechanism, program.joints, touches=kept)
    values = mechanism.values(poses)[list(program.joints)]
    closure = close(system, poses, system.targets(values, poses))
    if closure.is_closed:
        return closure.poses
    raise AssemblyError(
        "the bodies that are to stay in touch cannot be brought together here.",
        where="contacts",
        remedy="Bring them nearer to each other, or let them only push or stop.",
    )


def _start_pose(
    mechanism: Mechanism, program: ProgramValues, poses: Floats
) -> tuple[Floats, Floats]:
    """The pose at which the program starts, and what is added to raw values to show them."""
    raw = mechanism.values(poses)
    shift = turns_shown(mechanism, program, raw)
    drivers = list(program.joints)
    wanted = np.array(program.starts) - shift[drivers] if drivers else np.zeros(0)
    away = np.abs(wanted - raw[drivers]) if drivers else np.zeros(0)
    scale = np.where(mechanism.angular[drivers], mechanism.size, 1.0) if drivers else away
    if not drivers or float((away * scale).max()) < 1e-12 * mechanism.size:
        return poses, shift
    system = System(mechanism, program.joints, holds_at(mechanism, poses, program.joints))
    if float((away * scale).max()) < 1e-3 * mechanism.size:
        near = close(system, poses, system.targets(wanted, poses))
        if near.is_closed:
            return near.poses, shift
    branch_path = follow(Path(system, raw[drivers], wanted, poses), poses)
    if branch_path.end is End.COMPLETE:
        landed = close(system, branch_path.knots[-1].poses, system.targets(wanted, poses))
        if landed.is_closed:
            return landed.poses, shift
    reached = raw[drivers] + branch_path.end_p * (wanted - raw[drivers]) + shift[drivers]
    first = int(np.argmax(away * scale))
    joint = mechanism.resolved.document.joints[drivers[first]]
    dimension = ANGLE if mechanism.angular[drivers[first]] else LENGTH
    units = mechanism.resolved.units
    far = units.format(float(reached[first]), dimension)
    raise AssemblyError(
        f"its start value {units.format(program.starts[first], dimension)} cannot be reached:"
        f" from the drawn pose it comes as far as {far}.",
        where=f"driver of joint '{joint.title}'",
        remedy="Start within the reachable range, or draw the start pose nearer to it.",
    )


def turns_shown(mechanism: Mechanism, program: ProgramValues, raw: Floats) -> Floats:
    """(K,) whole turns added to raw angles: a driver starts where asked, others near limits."""
    near = np.zeros(len(raw))
    for k, values in enumerate(mechanism.resolved.joints):
        bounds = [b for b in (values.least, values.greatest) if b is not None]
        if len(bounds) == 2:
            near[k] = sum(bounds) / 2
        elif bounds:
            near[k] = bounds[0] + (math.pi if values.least is not None else -math.pi)
    for joint, start in zip(program.joints, program.starts, strict=True):
        near[joint] = start
    turns = np.round((near - raw) / FULL_TURN) * FULL_TURN
    return np.where(mechanism.angular, turns, 0.0)


def _stages(
    mechanism: Mechanism, program: ProgramValues, poses: Floats
) -> Iterator[tuple[int, Floats, Floats]]:
    """Stages by number, with the raw driver values (D,) that they go from and to."""
    raw = mechanism.values(poses)[list(program.joints)] if program.joints else np.zeros(0)
    shown = np.array(program.starts)
    for k, stage in enumerate(program.stages):
        target = raw.copy()
        for driver, value in stage.moves:
            target[driver] = raw[driver] + (value - shown[driver])
            shown[driver] = value
        yield k, raw, target
        raw = target


def _walk_program(
    mechanism: Mechanism, program: ProgramValues, walk: ContactWalk, poses: Floats
) -> End:
    for k, raw, target in _stages(mechanism, program, poses):
        ended, poses = walk.stage(k, raw, target, poses)
        if ended is not End.COMPLETE:
            return ended
    return End.COMPLETE


def _follow_program(
    mechanism: Mechanism, program: ProgramValues, mobility: Mobility, poses: Floats
) -> tuple[list[Segment], End]:
    segments: list[Segment] = []
    holds = mobility.holds
    for k, raw, target in _stages(mechanism, program, poses):
        ended, poses, holds = _follow_stage(
            mechanism, program.joints, holds, k, raw, target, poses, segments
        )
        if ended is not End.COMPLETE:
            return segments, ended
    return segments, End.COMPLETE


def _follow_stage(
    mechanism: Mechanism,
    joints: tuple[int, ...],
    holds: tuple[Hold, ...],
    stage: int,
    raw: Floats,
    target: Floats,
    poses: Floats,
    segments: list[Segment],
) -> tuple[End, Floats, tuple[Hold, ...]]:
    """Follow one stage; where only the held freedoms block the way, hold others and go on."""
    p = 0.0
    for _ in range(MOST_LEGS):
        path = _path(mechanism, joints, holds, segments, raw, target, poses)
        prior = came_with(segments, path)
        branch_path = _trusted_branch_path(path, poses, p, prior)
        if len(branch_path.knots) > 1 and branch_path.end_p > p:
            segments.append(
                Segment(
                    stage, branch_path, p, branch_path.end_p, runs_on(mechanism, segments, poses)
                )
            )
        if branch_path.end is End.COMPLETE:
            return End.COMPLETE, positions(segments[-1].branch_path, np.ones(1))[0], holds
        if branch_path.knots:
            poses, p = branch_path.knots[-1].poses, branch_path.end_p
        others = _other_holds(mechanism, joints, holds, poses, target - raw)
        if others is None and branch_path.end is End.BLOCKED:
            others = _shake_held(mechanism, path, poses, p, prior)
        if others is None:
            return branch_path.end, poses, holds
        holds = others
    return End.LOST, poses, holds


def _path(
    mechanism: Mechanism,
    joints: tuple[int, ...],
    holds: tuple[Hold, ...],
    segments: list[Segment],
    raw: Floats,
    target: Floats,
    poses: Floats,
) -> Path:
    """The way on from some poses, under the same system as before if that is held alike."""
    before = segments[-1].branch_path.path if segments else None
    if before is not None and before.system.holds == holds:
        return Path(before.system, raw, target, poses, before)
    return Path(System(mechanism, joints, holds), raw, target, poses)


def _trusted_branch_path(path: Path, poses: Floats, p: float, prior: Floats | None) -> BranchPath:
    """Follow, and follow again with shorter steps if the knots prove too far apart."""
    laid = follow_directly(path, poses, p)
    if laid is not None:
        # Closed forms answer between its knots.
        return laid
    branch_path = follow(path, poses, p=p, prior=prior)
    for fineness in (2.0, 4.0, 8.0):
        if len(branch_path.knots) < 2 or _between_knots(branch_path) < TRUSTED_MOVE:
            break
        branch_path = follow(path, poses, p=p, fineness=fineness, prior=prior)
    return branch_path


def _between_knots(branch_path: BranchPath) -> float:
    """Largest opening of any loop half way between knots, as a share of the size."""
    poses = branch_path.pose_polynomials
    halves = sum(poses[k] * 0.5**k for k in range(6))
    p = np.asarray(sum(branch_path.progress_polynomials[k] * 0.5**k for k in range(6)))
    residual = branch_path.path.system.residual(np.asarray(halves), branch_path.path.targets(p))
    residual[branch_path.bridge_of(p) >= 0] = 0.0
    return float(np.abs(residual).max(initial=0.0)) / branch_path.path.system.mechanism.size


def _other_holds(
    mechanism: Mechanism,
    joints: tuple[int, ...],
    holds: tuple[Hold, ...],
    poses: Floats,
    change: Floats,
) -> tuple[Hold, ...] | None:
    """Other quantities to hold, if the drivers alone could go on from here."""
    if not holds:
        return None
    system = System(mechanism, joints)
    _, jacobian = system.residual_jacobian(poses, np.zeros(system.rows))
    idle = null_space(jacobian)
    column = -system.target_rates(change)[:, None]
    column /= np.linalg.norm(column)
    going = null_space(np.hstack([jacobian, column]))
    can_go = going.shape[1] > 0 and float(np.abs(going[-1]).max()) > 1e-6
    if not can_go or idle.shape[1] != len(holds):
        return None
    others = choose_holds(mechanism, poses, idle)
    return None if set(others) == set(holds) else others


def _shake_held(
    mechanism: Mechanism, path: Path, poses: Floats, p: float, prior: Floats | None
) -> tuple[Hold, ...] | None:
    """Holds of all that could move at a blocked pose and never will; None if that is no more.

    A loop that stands at its change point because what drives it stands still can shake there
    all along, which must not stop the others.
    """
    free = replace(path, system=System(mechanism, path.system.drivers))
    came = None if prior is None else free.system.unknown_rates(prior)
    for first in branches(free, poses, p, came):
        stays = staying_free(free, poses, first)
        if stays.shape[1] > len(path.system.holds):
            return choose_holds(mechanism, poses, stays)
    return None
