"""What a join would do: the poses it gives, the other assembly, what it repeats, what does not fit.

*Bring together*: the first body comes to the second, with everything that hangs on it. Where it
cannot move freely because the join closes a loop, the loop is closed from where it stands, and
the other way to assemble it is offered as well. *As they stand*: nothing moves; how far apart
and out of line the places are is told, and either closed or kept as a stated offset.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from anakinema.building.spots import BodySpot
from anakinema.building.touching import (
    Fit,
    fits,
    joint_fits,
    rims_on_cams,
    seated_rise,
    straight_features,
)
from anakinema.document import model
from anakinema.document.dependents import Going
from anakinema.document.flatten import JOINT
from anakinema.document.kinds import Rider, Way, spec_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.document.solids import SolidPart
from anakinema.edits.base import Edit, Together, changed, fresh_id
from anakinema.edits.structure import Add, AddPlaces, Remove, SetJoint, SetPoses
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism, System, compile_mechanism
from anakinema.mechanism.kernels import Kernel
from anakinema.motion.assemble import Closure, close
from anakinema.motion.assemblies import other_assemblies, turned_over
from anakinema.motion.mobility import Mobility, analyse_mobility
from anakinema.units import ANGLE, LENGTH
from anakinema.wanted import still_wanted

TURNS = (0.2, 0.2, 0.5, 0.5, 1.0, 1.0, 1.6, 1.6, 2.4, 2.4, 3.0, 3.0)
"""rad that the bodies of a loop are turned by, one try after another, until it closes."""
WALK_STEPS = 16
TOUCHING = 1e-6
"""mm or rad; nearer places need no closing."""


@dataclass(frozen=True, slots=True)
class Wish:
    """What the designer asks for.

    first, second : the spots, in the order picked. kind : of the joint. manner : 'together',
    'stand' (as they stand, closed exactly) or 'offset' (as they stand, offset kept). flip turns
    the first body round by half a turn, ``turn`` (rad) by any more, ``offset`` mm sets it off
    the axis of a slide, or a place off a curve. radius : mm, of an arc. curve : which curve of the
    second body, None for its first. stack : 'face', 'middle', 'below', 'keep', or a
    number of mm. branch : 1 takes the other assembly.
    """

    first: BodySpot
    second: BodySpot
    kind: model.JointKind
    manner: str = "together"
    flip: bool = False
    turn: float = 0.0
    offset: float = 0.0
    radius: float | None = None
    curve: str | None = None
    stack: str | float = "face"
    branch: int = 0
    name: str = ""


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
    placed = _with_places(resolved, wish)
    joint, mover = _joint(resolved, wish)
    lift = _rise(resolved, wish, joint)
    joint = joint.model_copy(update={"rise": lift})
    edits = [*placed, Add("Join", joints=(joint,))]
    joined = Together("Join", tuple(edits)).apply(document)
    after = resolve(joined)
    mechanism = compile_mechanism(after)
    apart, askew = _misfit(mechanism, poses, joint)
    before = analyse_mobility(compile_mechanism(resolved), poses, ())
    loose = _hanging_on(resolved, mover, wish)
    ghosts: tuple[Floats, ...] = ()
    is_closed, is_continued, open_by = True, True, apart
    if wish.manner == "offset" and apart + askew > TOUCHING:
        return _kept_offset(resolved, poses, wish)
    if wish.manner != "stand" and loose is not None:
        there = _brought(resolved, poses, wish, joint, loose)
        # What is brought is only close to rounding; close it like everything else.
        closure = _assembled(mechanism, there)
        there, is_closed = (closure.poses, True) if closure.is_closed else (there, False)
    else:
        ring = _ring(resolved, wish)
        closure, is_continued = _closed(mechanism, poses, ring)
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
        steps.append(SetPoses(_told(after, there, redrawn), "Join"))
    label = f"Join {_title(resolved, wish.first.body)} to {_title(resolved, wish.second.body)}"
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


def rekinded(resolved: Resolved, joint_id: str, kind: str) -> tuple[Edit, tuple[str, ...]]:
    """The edit that makes a joint another kind, and titles of what then no longer fits it.

    Limits, driver and requirements stay; those that no longer fit are only named, except a
    driver on a rigid joint, which cannot be.
    """
    document = resolved.document
    joint = document.joint(joint_id)
    sides = []
    for side in (joint.first, joint.second):
        solid = resolved.part_of(document.body(side.body))
        sides.append((solid, *solid.places[side.place]))
    chosen = changed(joint, kind=kind)
    found = fits(chosen.kind, sides[0], sides[1])
    edits: list[Edit] = [
        SetJoint(joint_id, "kind", kind),
        SetJoint(
            joint_id,
            "first",
            joint.first.model_copy(
                update={"pieces": tuple(dict.fromkeys(fit.first.piece for fit in found))}
            ),
        ),
        SetJoint(
            joint_id,
            "second",
            joint.second.model_copy(
                update={"pieces": tuple(dict.fromkeys(fit.second.piece for fit in found))}
            ),
        ),
    ]
    if spec_of(chosen.kind).has_radius and joint.radius is None:
        edits.append(SetJoint(joint_id, "radius", 40.0 / resolved.units.factor(LENGTH)))
    if spec_of(chosen.kind).has_curve and joint.curve is None:
        known = curves_on(resolved, joint.first.body)
        if not known:
            raise ValueOutOfRangeError(
                "it has no curve to follow.",
                where=f"body '{_title(resolved, joint.first.body)}'",
                remedy="Give its part a curved slot or a cam first.",
            )
        edits.append(SetJoint(joint_id, "curve", known[0]))
    misfits: list[str] = []
    drivers = [d for d in document.program.drivers if d.joint == joint_id]
    if not spec_of(chosen.kind).moves and drivers:
        edits.append(Remove(Going(drivers=frozenset(d.id for d in drivers))))
        misfits += [f"driver {d.title}" for d in drivers]
    if spec_of(chosen.kind).is_angular != spec_of(joint.kind).is_angular:
        edits.append(SetJoint(joint_id, "limits", model.Limits()))
        if joint.limits != model.Limits():
            misfits.append("its limits")
        edits.append(SetJoint(joint_id, "zero", 0.0))
        if spec_of(chosen.kind).moves and drivers:
            edits.append(Remove(Going(drivers=frozenset(d.id for d in drivers))))
            misfits += [f"driver {d.title}" for d in drivers]
        asked = {
            r.id: r.name or r.id
            for r in document.requirements
            if getattr(r, "joint", None) == joint_id
        }
        if asked:
            edits.append(Remove(Going(requirements=frozenset(asked))))
            misfits += list(asked.values())
    return Together(f"Make it {kind.replace('_', ' ')}", tuple(edits)), tuple(misfits)


def join_words(proposal: Proposal) -> list[str]:
    """What a join would come to, a line each: misfit, freedoms, repeats, play."""
    units, wish = proposal.resolved.units, proposal.wish
    lines = []
    if not proposal.is_closed:
        apart = units.format(proposal.apart, LENGTH)
        return [f"The loop cannot close: {apart} stay open. Change a length, or the kind of joint."]
    if wish.manner == "stand":
        apart = units.format(proposal.apart, LENGTH)
        if proposal.apart < TOUCHING and proposal.askew < TOUCHING:
            lines.append("The two places meet as they stand.")
        else:
            askew = units.format(proposal.askew, ANGLE)
            line = f", {askew} out of line" if proposal.askew > TOUCHING else ""
            lines.append(f"They stand {apart} apart{line}. Joining closes it exactly.")
    if proposal.turned:
        names = " and ".join(proposal.turned[:4])
        lines.append(f"{names} would be assembled the other way round.")
    if not proposal.is_continued:
        lines.append("It closes only from another pose: look how everything is assembled.")
    left = proposal.freedoms
    noun = "freedom" if left == 1 else "freedoms"
    lines.append(f"Leaves {left or 'no'} {noun} of motion, before {proposal.freedoms_before}.")
    if proposal.repeats:
        names = ", ".join(proposal.repeats[:4])
        lines.append(f"Repeats what is held already by {names}: it moves only if sizes match.")
    for fit in proposal.play:
        inner, outer = units.format(fit.inner, LENGTH), units.format(fit.outer, LENGTH)
        play = units.format(fit.play, LENGTH)
        doubt = "" if fit.play > 0 else ": too tight, open the hole"
        lines.append(f"{inner} in {outer}, play {play}{doubt}.")
    if proposal.ghosts:
        lines.append("It can be assembled in two ways; both are shown.")
    return lines


def likely_kind(first: BodySpot, second: BodySpot) -> model.JointKind:
    """The kind of joint that two spots suggest, to begin with."""
    words = (first.spot.words, second.spot.words)
    slots = sum("slot" in w and "end" not in w for w in words)
    straight = sum(any(k in w for k in ("edge", "opening", "rectangle", "axis")) for w in words)
    if slots == 1 and straight == 0:
        return "pin_in_slot"
    if slots + straight == 2 or (straight and "middle" in " ".join(words)):
        return "prismatic"
    return "revolute"


def likely_radius(resolved: Resolved, first: BodySpot, second: BodySpot) -> float:
    """mm; radius of the arc two spots suggest: a dimension called so, else their distance."""
    for end in (second, first):
        part = resolved.document.part(resolved.document.body(end.body).part)
        if any(dimension.id == "radius" for dimension in part.dimensions):
            return resolved.number(part, "radius", LENGTH)
    return max(1.0, round(math.hypot(first.x - second.x, first.y - second.y), 2))


def _assembled(mechanism: Mechanism, poses: Floats) -> Closure:
    system = System(mechanism)
    return close(system, poses, system.at_rest)


def _closed(mechanism: Mechanism, poses: Floats, ring: tuple[int, ...]) -> tuple[Closure, bool]:
    """The loop closed from where it stands, bit by bit, so that loops closed before stay as they
    are assembled; all at once, and from turned poses, if it is caught on the way: then False.

    Links that lie in one line pull along that line only and never leave it, however long they
    are; a turn of the bodies in the loop, ever the same, sets them free. A cylinder that would be
    pushed or pulled beyond its stroke is held at its end, if the loop closes so.
    """
    system = System(mechanism)
    misfit = system.residual(poses, system.at_rest)
    is_near = float(np.abs(misfit).max(initial=0.0)) < TOUCHING
    walked = None if is_near else _walked(system, poses, misfit)
    found = walked
    is_continued = walked is not None
    moving = [b for b in ring if not mechanism.fixed[b]]
    if found is None:
        found = close(system, poses, system.at_rest)
        is_continued = is_near
        if not found.is_closed and moving:
            found = _closed_from_elsewhere(system, poses, system.at_rest, moving, found)
            is_continued = False
    beyond = _beyond_stroke(mechanism, found.poses) if found.is_closed else {}
    if beyond and moving:
        held = System(mechanism, tuple(beyond))
        targets = held.targets(np.array(list(beyond.values())), poses)
        within = _closed_from_elsewhere(held, poses, targets, moving, None)
        if within.is_closed and not _beyond_stroke(mechanism, within.poses):
            return within, False
    return found, is_continued


def _closed_from_elsewhere(
    system: System, poses: Floats, targets: Floats, moving: list[int], best: Closure | None
) -> Closure:
    """The first closed pose from some turned ones, or what came nearest."""
    random = np.random.default_rng(1)
    for amount in TURNS:
        still_wanted()
        start = poses.copy()
        start[moving, 2] += (
            amount * random.uniform(0.5, 1.0, len(moving)) * random.choice((-1.0, 1.0), len(moving))
        )
        found = close(system, start, targets)
        if found.is_closed:
            return found
        if best is None or found.open_by < best.open_by:
            best = found
    assert best is not None
    return best


def _beyond_stroke(mechanism: Mechanism, poses: Floats) -> dict[int, float]:
    """Cylinders shorter or longer than they can be, and the nearest length each can have."""
    found = {}
    lengths = mechanism.values(poses).tolist()
    for joint, (values, length) in enumerate(zip(mechanism.resolved.joints, lengths, strict=True)):
        if values.stroke is not None:
            low = values.stroke.dead_length
            nearest = min(max(length, low), low + values.stroke.stroke)
            if abs(nearest - length) > TOUCHING:
                found[joint] = nearest
    return found


def _walked(system: System, poses: Floats, misfit: Floats) -> Closure | None:
    """What stays open is taken back in small shares; None if one of them cannot be closed."""
    target = system.at_rest
    found: Closure | None = None
    for share in np.linspace(1.0, 0.0, WALK_STEPS + 1)[1:]:
        still_wanted()
        found = close(system, poses, target + share * misfit)
        if not found.is_closed:
            return None
        poses = found.poses
    return found


def _title(resolved: Resolved, body_id: str) -> str:
    return resolved.document.body(body_id).title


def _with_places(resolved: Resolved, wish: Wish) -> list[Edit]:
    """Edits that mark the two spots as places, where they are not yet."""
    edits: list[Edit] = []
    for end in (wish.first, wish.second):
        if not end.spot.known:
            part = resolved.document.body(end.body).part
            edits.append(AddPlaces(part, (end.spot.place,)))
    return edits


def _joint(resolved: Resolved, wish: Wish) -> tuple[model.Joint, str]:
    """The joint with its two sides, and the body that comes.

    The second body picked carries the axis, so that values are seen from what is joined to;
    only a slot or an arc picked first keeps its side.
    """
    mover = wish.first.body
    carrier, rider = wish.second, wish.first
    spec = spec_of(wish.kind)
    is_slot = spec.is_straight and spec.is_pin
    if is_slot and _has_slot(resolved, wish.first) and not _has_slot(resolved, wish.second):
        carrier, rider = wish.first, wish.second
    taken = {j.id for j in resolved.source.joints}
    titles = [_title(resolved, body) for body in (rider.body, carrier.body)]
    twist = (math.pi if wish.flip else 0.0) + wish.turn
    if not spec.has_twist:
        twist = 0.0
    curve = _curve_wished(resolved, wish) if spec.has_curve else None
    units = resolved.units
    sides = [model.Side(body=end.body, place=end.spot.place.id) for end in (carrier, rider)]
    pieces = _pieces(resolved, wish.kind, carrier, rider)
    if curve is not None and not pieces[0]:
        solid, x, y, _ = _side_numbers(resolved, rider)
        rims = rims_on_cams(_side_numbers(resolved, carrier)[0], curve, solid, x, y)
        pieces = tuple(rims[0]), tuple(rims[1])
    joint = model.Joint(
        id=fresh_id(f"{rider.body}_on_{carrier.body}".replace(JOINT, "_"), taken),
        kind=wish.kind,
        name=wish.name or f"{titles[0]} on {titles[1]}",
        first=sides[0].model_copy(update={"pieces": pieces[0]}),
        second=sides[1].model_copy(update={"pieces": pieces[1]}),
        twist=round(twist / units.factor(ANGLE), 10),
        offset=wish.offset / units.factor(LENGTH) if spec.is_set_off else 0.0,
        curve=curve,
        radius=None
        if not spec.has_radius or wish.radius is None
        else wish.radius / units.factor(LENGTH),
    )
    return joint, mover


def curves_on(resolved: Resolved, body: str) -> tuple[str, ...]:
    """Names of the curves that a body carries."""
    return tuple(resolved.part_of(resolved.document.body(body)).curves)


def _curve_wished(resolved: Resolved, wish: Wish) -> str:
    """The curve of the second body that the first comes to; raises if it has none."""
    known = curves_on(resolved, wish.second.body)
    if not known:
        raise ValueOutOfRangeError(
            "it has no curve to follow.",
            where=f"body '{_title(resolved, wish.second.body)}'",
            remedy="Give its part a curved slot or a cam, or pick them the other way round.",
        )
    return wish.curve if wish.curve in known else known[0]


def _side_numbers(resolved: Resolved, end: BodySpot) -> tuple[SolidPart, float, float, float]:
    solid = resolved.part_of(resolved.document.body(end.body))
    return solid, end.spot.x, end.spot.y, end.spot.angle


def _has_slot(resolved: Resolved, end: BodySpot) -> bool:
    found = straight_features(*_side_numbers(resolved, end))
    return any(feature.hole is not None for feature in found)


def _pieces(
    resolved: Resolved, kind: model.JointKind, carrier: BodySpot, rider: BodySpot
) -> tuple[tuple[model.OutlinePiece, ...], tuple[model.OutlinePiece, ...]]:
    found = fits(kind, _side_numbers(resolved, carrier), _side_numbers(resolved, rider))
    return (
        tuple(dict.fromkeys(fit.first.piece for fit in found)),
        tuple(dict.fromkeys(fit.second.piece for fit in found)),
    )


def _rise(resolved: Resolved, wish: Wish, joint: model.Joint) -> float | None:
    """Height of the joint's second body above its first, None where the stack stays as it is."""
    if wish.stack == "keep":
        return None
    document = resolved.document
    mover = wish.first.body
    if document.body(mover).height is not None or is_stacked(document, mover, wish.second.body):
        return None
    ends = (wish.second, wish.first) if joint.second.body == mover else (wish.first, wish.second)
    if isinstance(wish.stack, (int, float)):
        up = float(wish.stack)
        rise = up if joint.second.body == mover else -up
    else:
        sides = [_side_numbers(resolved, end) for end in ends]
        found = fits(wish.kind, *sides)
        manner = str(wish.stack)
        if joint.second.body != mover and not found:
            manner = {"face": "below", "below": "face"}.get(manner, manner)
        rise = seated_rise(found, sides[0][:3], sides[1][:3], manner)
    return round(rise / resolved.units.factor(LENGTH), 9)


def is_stacked(document: model.Document, body: str, other: str) -> bool:
    """Whether the heights of two bodies are tied already: by rises, or by heights of their own."""
    links: dict[str, set[str]] = {}
    for joint in document.joints:
        if joint.rise is not None:
            links.setdefault(joint.first.body, set()).add(joint.second.body)
            links.setdefault(joint.second.body, set()).add(joint.first.body)
    set_heights = {b.id for b in document.bodies if b.height is not None}

    def reached(start: str) -> set[str]:
        seen, queue = {start}, [start]
        while queue:
            for near in links.get(queue.pop(), ()):
                if near not in seen:
                    seen.add(near)
                    queue.append(near)
        return seen

    mine, its = reached(body), reached(other)
    return other in mine or bool(mine & set_heights and its & set_heights)


def _hanging_on(resolved: Resolved, mover: str, wish: Wish) -> tuple[int, ...] | None:
    """Indices of the body that comes and all that hangs on it; None if that is held already."""
    document = resolved.document
    index = {body.id: i for i, body in enumerate(document.bodies)}
    near: dict[str, set[str]] = {}
    for joint in document.joints:
        near.setdefault(joint.first.body, set()).add(joint.second.body)
        near.setdefault(joint.second.body, set()).add(joint.first.body)
    seen, queue = {mover}, [mover]
    while queue:
        for other in near.get(queue.pop(), ()):
            if other not in seen:
                seen.add(other)
                queue.append(other)
    target = wish.second.body
    if target in seen or any(document.body(body).fixed for body in seen):
        return None
    return tuple(sorted(index[body] for body in seen))


def _brought(
    resolved: Resolved, poses: Floats, wish: Wish, joint: model.Joint, group: tuple[int, ...]
) -> Floats:
    """Poses with a group moved as one piece so that its place meets the other."""
    first, second = wish.first, wish.second
    turn, dx, dy = 0.0, 0.0, 0.0
    spec = spec_of(wish.kind)
    if spec.turns_over and not spec.has_radius:
        half = math.pi if wish.flip else 0.0
        carried = joint.second.body == first.body
        sign = 1.0 if carried else -1.0
        turn = second.angle - first.angle + sign * (half + wish.turn)
    elif spec.way is Way.POINT:
        turn = (math.pi if wish.flip else 0.0) + wish.turn
    x, y = second.x, second.y
    if spec.has_radius and wish.radius is not None:
        angle = math.atan2(first.y - second.y, first.x - second.x)
        x, y = x + wish.radius * math.cos(angle), y + wish.radius * math.sin(angle)
        if spec.has_twist:
            turn = angle + math.pi / 2 - first.angle + (math.pi if wish.flip else 0.0)
    elif spec.has_curve:
        x, y, turn = _onto_curve(resolved, poses, wish, joint)
    elif spec.is_set_off and wish.offset:
        x -= wish.offset * math.sin(second.angle)
        y += wish.offset * math.cos(second.angle)
    turn = (turn + math.pi) % (2 * math.pi) - math.pi
    c, s = math.cos(turn), math.sin(turn)
    dx, dy = x - first.x, y - first.y
    out = poses.copy()
    rows = list(group)
    away = poses[rows, :2] - np.array([first.x, first.y])
    out[rows, 0] = first.x + dx + c * away[:, 0] - s * away[:, 1]
    out[rows, 1] = first.y + dy + s * away[:, 0] + c * away[:, 1]
    out[rows, 2] = poses[rows, 2] + turn
    return out


def _onto_curve(
    resolved: Resolved, poses: Floats, wish: Wish, joint: model.Joint
) -> tuple[float, float, float]:
    """Where a place comes to on a curve, the nearest to where it is, and by how much it turns."""
    first, body = wish.first, resolved.document.body(wish.second.body)
    curve = resolved.part_of(body).curves[str(joint.curve)]
    px, py, angle = (float(v) for v in poses[resolved.document.bodies.index(body)])
    c, s = math.cos(angle), math.sin(angle)
    away = np.array(
        [[c * (first.x - px) + s * (first.y - py), c * (first.y - py) - s * (first.x - px)]]
    )
    points, foot = curve.at(curve.foot(away).s)
    heading, turn = float(foot.direction[0]), 0.0
    beside = wish.offset
    rider = spec_of(wish.kind).rider
    if rider is Rider.BLOCK:
        turn = heading + angle + wish.turn - first.angle
    if rider is Rider.FACE:
        # The face looks at the inside, which lies on the left.
        turn, beside = heading + math.pi / 2 + angle - first.angle, 0.0
    lx = float(points[0, 0]) - beside * math.sin(heading)
    ly = float(points[0, 1]) + beside * math.cos(heading)
    return px + c * lx - s * ly, py + s * lx + c * ly, turn


def _misfit(mechanism: Mechanism, poses: Floats, joint: model.Joint) -> tuple[float, float]:
    """How far the conditions of a new joint are from being met as the bodies stand: mm, rad."""
    of_joint = mechanism.row_joint == mechanism.joint_index(joint.id)
    rows = np.flatnonzero(of_joint & (mechanism.row_kernel != int(Kernel.COUPLED)))
    system = System(mechanism)
    residual = system.residual(poses, system.at_rest)[rows]
    from_turn = mechanism.row_kernel[rows] == int(Kernel.TURN)
    askew = np.abs(residual[from_turn]) / mechanism.size
    return float(np.linalg.norm(residual[~from_turn])), float(askew.max(initial=0.0))


def _ring(resolved: Resolved, wish: Wish) -> tuple[int, ...]:
    """Bodies on the shortest way between the two through existing joints: the loop closed."""
    import networkx as nx  # slow to import, so not at start

    graph: nx.Graph[str] = nx.Graph()
    graph.add_nodes_from(body.id for body in resolved.document.bodies)
    fixed = [body.id for body in resolved.document.bodies if body.fixed]
    graph.add_edges_from((j.first.body, j.second.body) for j in resolved.document.joints)
    graph.add_edges_from((fixed[0], other) for other in fixed[1:])
    index = {body.id: i for i, body in enumerate(resolved.document.bodies)}
    try:
        way = nx.shortest_path(graph, wish.first.body, wish.second.body)
    except nx.NetworkXNoPath:
        return ()
    return tuple(index[body] for body in way)


def _moved(poses: Floats, there: Floats, mechanism: Mechanism) -> tuple[int, ...]:
    scale = np.array([1.0, 1.0, mechanism.size])
    far = np.abs((there - poses) * scale).max(axis=1, initial=0.0)
    return tuple(int(b) for b in np.flatnonzero(far > 1e-9))


def _told(
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
    away_x, away_y = wish.second.x - x, wish.second.y - y
    c, s = math.cos(turn), math.sin(turn)
    local = (c * away_x + s * away_y, c * away_y - s * away_x)
    angle = wish.second.angle - turn
    part = resolved.document.part(resolved.document.body(wish.first.body).part)
    units = resolved.units
    place = model.Place(
        id=fresh_id(f"{wish.first.spot.place.id}_offset", {p.id for p in part.places}),
        x=round(local[0] / units.factor(LENGTH), 10),
        y=round(local[1] / units.factor(LENGTH), 10),
        angle=round(angle / units.factor(ANGLE), 10),
    )
    spot = replace(wish.first.spot, place=place, x=local[0], y=local[1], angle=angle, known=False)
    here = BodySpot(wish.first.body, spot, wish.second.x, wish.second.y, wish.second.angle)
    stated = replace(wish, first=here, manner="stand")
    return replace(propose(resolved, poses, stated), wish=wish)
