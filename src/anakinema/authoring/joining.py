"""What a join would do: the poses it gives, the other assembly, what it repeats, what does not fit.

*Bring together*: the first body comes to the second, with everything that hangs on it. Where it
cannot move freely because the join closes a loop, the loop is closed from where it stands, and
the other way to assemble it is offered as well. *As they stand*: nothing moves; how far apart
and out of line the places are is stated, and either closed or kept as a stated offset.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from anakinema.authoring.bringing import brought_together, hanging_on, ring_between
from anakinema.authoring.closing_loops import TOUCHING, assembled_near, closed_loop
from anakinema.authoring.jointing import joint_wished, places_wished, rise_wished, title_of
from anakinema.authoring.snap_points import PlacedSnap
from anakinema.authoring.touching import Fit, joint_fits
from anakinema.authoring.wishes import Wish
from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.structure import Add, SetPoses
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import within
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.mechanism.kernels import Kernel
from anakinema.mechanism.system import System
from anakinema.motion.assemblies import other_assemblies, turned_over
from anakinema.motion.mobility import Mobility, analyse_mobility
from anakinema.units import ANGLE, LENGTH


@dataclass(frozen=True, slots=True, eq=False)
class Proposal:
    """What it would come to. Nothing is changed until ``edit`` is applied.

    poses : (B, 3) of all bodies once joined; ghosts : other assemblies, (B, 3) each.
    apart (mm), askew (rad) : how far the places are from one another as they stand.
    moved : indices of the bodies that leave their place. play : the fits that share heights.
    repeats : joints that say the same as the new one. is_closed False: the loop cannot close,
    ``apart`` is then what stays open. is_continued False: it could not be closed bit by bit from
    where it stands, only from other poses. turned : titles of bodies of other loops that would
    then be assembled on their other side.
    """

    wish: Wish
    edit: Edit
    joint: model.Joint
    resolved: Resolved
    poses: Floats
    ghosts: tuple[Floats, ...]
    apart: float
    askew: float
    moved: tuple[int, ...]
    play: tuple[Fit, ...]
    freedoms: int
    freedoms_before: int
    repeats: tuple[str, ...]
    is_closed: bool
    is_continued: bool = True
    turned: tuple[str, ...] = ()


def propose(resolved: Resolved, poses: Floats, wish: Wish) -> Proposal:
    """The joint, and where everything would stand.

    ``poses`` (B, 3) are the present ones. Raises an `AnakinemaError` if the two cannot be joined
    at all; a loop that does not close is an answer, not an error.
    """
    document = resolved.source
    if wish.first.body == wish.second.body:
        raise ValueOutOfRangeError(
            "both places are on the same body.", where="join", remedy="Pick a place on another."
        )
    placed = places_wished(resolved, wish)
    joint, mover = joint_wished(resolved, wish)
    lift = rise_wished(resolved, wish, joint)
    joint = joint.model_copy(update={"rise": lift})
    edits = [*placed, Add("Join", joints=(joint,))]
    joined = Together("Join", tuple(edits)).apply(document)
    after = resolve(joined)
    mechanism = compile_mechanism(after)
    apart, askew = _misfit(mechanism, poses, joint)
    before = analyse_mobility(compile_mechanism(resolved), poses, ())
    # What a rod ties stays where it is: the rod is made as long as that takes.
    loose = None if spec_of(wish.kind).is_rod else hanging_on(resolved, mover, wish)
    ghosts: tuple[Floats, ...] = ()
    is_closed, is_continued, open_by = True, True, apart
    if wish.manner == "offset" and apart + askew > TOUCHING:
        return _kept_offset(resolved, poses, wish)
    if wish.manner != "stand" and loose is not None:
        there = brought_together(resolved, poses, wish, joint, loose)
        # What is brought is only close to rounding; close it like everything else.
        closure = assembled_near(mechanism, there)
        there, is_closed = (closure.poses, True) if closure.is_closed else (there, False)
    else:
        ring = ring_between(resolved, wish)
        closure, is_continued = closed_loop(mechanism, poses, ring)
        there, is_closed, open_by = closure.poses, closure.is_closed, closure.open_by
        if is_closed and loose is None:
            ghosts = tuple(other_assemblies(mechanism, there, ring))
            if ghosts and _prefers_other(resolved, poses, there, ghosts[0]):
                there, ghosts = ghosts[0], (there,)
            if wish.branch and ghosts:
                there, ghosts = ghosts[0], (there,)
    turned = turned_over(compile_mechanism(resolved), poses, there) if loose is None else ()
    mobility = analyse_mobility(mechanism, there, ()) if is_closed else before
    moved = _moved(poses, there, mechanism)
    titles = {j.id: j.title for j in after.document.joints}
    repeats = _repeats(before, mobility, after, joint)
    steps: list[Edit] = list(edits)
    redrawn = _moved(resolved.poses, there, mechanism)
    if redrawn and is_closed:
        steps.append(SetPoses(_stated(after, there, redrawn), "Join"))
    label = f"Join {title_of(resolved, wish.first.body)} to {title_of(resolved, wish.second.body)}"
    return Proposal(
        wish=wish,
        edit=Together(label, tuple(steps)),
        joint=joint,
        resolved=after,
        poses=there,
        ghosts=ghosts,
        apart=apart if is_closed else open_by,
        askew=askew,
        moved=moved,
        play=tuple(joint_fits(after, joint)),
        freedoms=mobility.freedoms,
        freedoms_before=before.freedoms,
        repeats=tuple(titles[j] for j in repeats),
        is_closed=is_closed,
        is_continued=is_continued,
        turned=tuple(resolved.document.bodies[b].title for b in turned) if is_closed else (),
    )


def _prefers_other(resolved: Resolved, poses: Floats, near: Floats, other: Floats) -> bool:
    """Whether only the other assembly leaves the loops closed before as they are."""
    mechanism = compile_mechanism(resolved)
    is_turned = bool(turned_over(mechanism, poses, near))
    return is_turned and not turned_over(mechanism, poses, other)


def _misfit(mechanism: Mechanism, poses: Floats, joint: model.Joint) -> tuple[float, float]:
    """How far the conditions of a new joint are from being met as the bodies stand: mm, rad."""
    of_joint = mechanism.row_joint == mechanism.joint_index(joint.id)
    rows = np.flatnonzero(of_joint & (mechanism.row_kernel != int(Kernel.COUPLED)))
    system = System(mechanism)
    residual = system.residual(poses, system.at_rest)[rows]
    from_turn = mechanism.row_kernel[rows] == int(Kernel.TURN)
    askew = np.abs(residual[from_turn]) / mechanism.size
    return float(np.linalg.norm(residual[~from_turn])), float(askew.max(initial=0.0))


def _moved(poses: Floats, there: Floats, mechanism: Mechanism) -> tuple[int, ...]:
    scale = np.array([1.0, 1.0, mechanism.size])
    far = np.abs((there - poses) * scale).max(axis=1, initial=0.0)
    return tuple(int(b) for b in np.flatnonzero(far > 1e-9))


def _stated(
    resolved: Resolved, poses: Floats, bodies: tuple[int, ...]
) -> tuple[tuple[str, float, float, float], ...]:
    out = []
    for body in bodies:
        x, y, angle = poses[body].tolist()
        out.append((resolved.document.bodies[body].id, x, y, angle))
    return tuple(out)


def _repeats(
    before: Mobility, after: Mobility, resolved: Resolved, joint: model.Joint
) -> tuple[str, ...]:
    """Other joints that the new one repeats; none if it takes freedoms as it should."""
    if after.repeated <= before.repeated:
        return ()
    ids = [j.id for j in resolved.document.joints]
    return tuple(ids[j] for j in after.repeated_joints if ids[j] != joint.id)


def _kept_offset(resolved: Resolved, poses: Floats, wish: Wish) -> Proposal:
    """Join as they stand, with the place on the first body set where the second's is.

    A slide keeps its turn and its distance across as stated numbers; other kinds get a place
    of their own on the first body's part.
    """
    index = [b.id for b in resolved.document.bodies].index(wish.first.body)
    x, y, turn = (float(v) for v in poses[index])
    spec = spec_of(wish.kind)
    if spec.is_straight and not spec.is_pin:
        askew = wish.first.angle - wish.second.angle
        dx, dy = wish.first.x - wish.second.x, wish.first.y - wish.second.y
        across = -math.sin(wish.second.angle) * dx + math.cos(wish.second.angle) * dy
        stated = replace(wish, manner="stand", flip=False, turn=askew, offset=across)
        return replace(propose(resolved, poses, stated), wish=wish)
    local = within((x, y, turn), (wish.second.x, wish.second.y))
    angle = wish.second.angle - turn
    part = resolved.document.part(resolved.document.body(wish.first.body).part)
    units = resolved.units
    place = model.Place(
        id=fresh_id(f"{wish.first.snap.place.id}_offset", {p.id for p in part.places}),
        x=round(local[0] / units.factor(LENGTH), 10),
        y=round(local[1] / units.factor(LENGTH), 10),
        angle=round(angle / units.factor(ANGLE), 10),
    )
    snap = replace(wish.first.snap, place=place, x=local[0], y=local[1], angle=angle, known=False)
    here = PlacedSnap(wish.first.body, snap, wish.second.x, wish.second.y, wish.second.angle)
    stated = replace(wish, first=here, manner="stand")
    return replace(propose(resolved, poses, stated), wish=wish)
