"""Couplings as rows: a sum of joint values, each times a number, that stays what it is as drawn.

Turns of wheels count against the body that carries them. A body's turn against another is the sum
of the turns of the joints on a way between the two, so every coupling is a combination of value
rows of joints, and the constraint kernels need know nothing of it.

==============  ========================================================================
kind            what stays constant (a, b turns of the wheels; s, v values of the joints)
==============  ========================================================================
gears           z1 a + z2 b
internal gears  z1 a − z2 b
chain           z1 a − z2 b
belt            r1 a − r2 b
crossed belt    r1 a + r2 b
rack            r a − s, with the sign that the rack's side of the pinion gives
ratio           v1 / d1 − v2 / d2
angled shafts   β(v1) − v2, see `anakinema.mechanism.fields`
bevel wheels    z1 v1 ± z2 v2, see `_bevel_side`
==============  ========================================================================
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from anakinema.document import model
from anakinema.document.body_graph import JOINT, body_graph, way_between
from anakinema.document.coupling_kinds import Couples, Sizes, coupling_spec
from anakinema.document.couplings import common_carrier, wheels_of
from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried
from anakinema.mechanism.conditions import Rows, condition
from anakinema.mechanism.fields import Bend
from anakinema.mechanism.frames import JointTable, frames
from anakinema.mechanism.kernels import Kernel, value_kernel
from anakinema.units import ANGLE, LENGTH

ASKEW = 2e-3
"""rad by which a stated angle between shafts may miss that of their planes."""
PARALLEL = 1e-3
"""Sine of the angle below which no bevel wheels are."""
PASSES = 0.05
"""mm that shafts of bevel wheels may pass one another by."""


@dataclass(frozen=True, slots=True)
class Coupled:
    """One coupling: (joint, kernel, factor) of its terms, and the sum (mm) that stays.

    Factors are scaled so that the greatest is 1.
    """

    terms: tuple[tuple[int, Kernel, float], ...]
    target: float


def couple(resolved: Resolved, table: JointTable, size: float) -> tuple[Coupled, ...]:
    """All couplings of a document; raises an `AnakinemaError` if a carrier cannot be reached."""
    document = resolved.document
    out = []
    for coupling, values in zip(document.couplings, resolved.couplings, strict=True):
        joints = [joint.id for joint in document.joints]
        first, second = joints.index(coupling.first), joints.index(coupling.second)
        one, two = _factors(coupling, values.first, values.second)
        terms: list[tuple[int, Kernel, float]] = []
        spec = coupling_spec(coupling.kind)
        if spec.couples is Couples.SHAFTS:
            sense = _shaft_sense(resolved, coupling, values.first)
            terms += [(first, Kernel.BENT, 1.0 / size), (second, Kernel.TURN, -sense / size)]
        elif spec.couples is Couples.BEVELS:
            side = _bevel_side(resolved, coupling)
            terms += [
                (first, Kernel.TURN, one / size),
                (second, Kernel.TURN, side * values.second / size),
            ]
        elif spec.couples is Couples.VALUES:
            for joint, factor in ((first, one), (second, two)):
                kernel = value_kernel(document.joints[joint].kind)
                scale = 1.0 if kernel is Kernel.ALONG else 1.0 / size
                terms.append((joint, kernel, factor * scale))
        else:
            carrier = _carrier(resolved, coupling)
            names = [body.id for body in document.bodies]
            wheels = wheels_of(document.bodies, document.joints, coupling)
            wheel, mate = (names.index(each) for each in wheels)
            terms += _turn(resolved, coupling, wheel, carrier, one / size)
            if spec.couples is Couples.RIM:
                terms.append((second, Kernel.ALONG, -_side(resolved, table, first, second, mate)))
            else:
                terms += _turn(resolved, coupling, mate, carrier, two / size)
        out.append(_as_drawn(terms, resolved.poses, table, size))
    return tuple(out)


def bends(resolved: Resolved) -> dict[int, Bend]:
    """The universal joints of a document by the index of their first joint.

    Raises a `ValueOutOfRangeError` if two of different angles take their turn from one joint.
    """
    found: dict[int, Bend] = {}
    ids = [joint.id for joint in resolved.document.joints]
    for coupling, values in zip(resolved.document.couplings, resolved.couplings, strict=True):
        if coupling_spec(coupling.kind).couples is not Couples.SHAFTS:
            continue
        first = ids.index(coupling.first)
        bend = Bend(1.0 / math.cos(values.first), resolved.joints[first].zero)
        if found.setdefault(first, bend) != bend:
            raise ValueOutOfRangeError(
                "its first joint turns another universal joint of another angle already.",
                where=f"coupling '{coupling.title}'",
                remedy="Couple it the other way round.",
            )
    return found


def _factors(coupling: model.Coupling, first: float, second: float) -> tuple[float, float]:
    spec = coupling_spec(coupling.kind)
    if spec.sizes is Sizes.WAYS:
        return 1.0 / first, -1.0 / second
    return first, second if spec.against else -second


def _carrier(resolved: Resolved, coupling: model.Coupling) -> int:
    document = resolved.document
    index = {body.id: i for i, body in enumerate(document.bodies)}
    if coupling.carrier is not None:
        return index[coupling.carrier]
    first, second = (document.joint(each) for each in (coupling.first, coupling.second))
    return index[common_carrier(document.bodies, first, second) or first.first.body]


def _turn(
    resolved: Resolved, coupling: model.Coupling, wheel: int, carrier: int, factor: float
) -> list[tuple[int, Kernel, float]]:
    """Terms of the turn of a wheel against the carrier, along the shortest way of joints.

    Fixed bodies do not turn against each other, so the way may change from one to another.
    """
    bodies, joints = resolved.document.bodies, resolved.document.joints
    graph = body_graph(bodies, joints)
    way = way_between(graph, bodies[carrier].id, bodies[wheel].id)
    if not way:
        raise ValueOutOfRangeError(
            f"no joints lead from '{bodies[carrier].title}' to '{bodies[wheel].title}'.",
            where=f"coupling '{coupling.title}'",
            remedy="Join the wheel to what carries it first.",
        )
    index = {joint.id: k for k, joint in enumerate(joints)}
    terms = []
    for here, other in pairwise(way):
        joint = graph.edges[here, other][JOINT]
        if joint is not None:
            sign = 1.0 if joint.first.body == here else -1.0
            terms.append((index[joint.id], Kernel.TURN, sign * factor))
    return terms


def _side(resolved: Resolved, table: JointTable, pinion: int, rack: int, moved: int) -> float:
    """How the value of the rack's joint changes when its pinion rolls 1 mm anticlockwise: +1, -1.

    The pitch line runs through the rack's place along the slide; the pinion's rim moves there
    with the turn about its centre. ``moved`` is the rack itself, second or first of its joint.
    """
    at = frames(table, resolved.poses)
    centre = resolved.poses[table.first[pinion], :2] + at.first_arm[pinion]
    is_second = int(table.second[rack]) == moved
    arm = at.second_arm[rack] if is_second else at.first_arm[rack]
    ux, uy = at.axis[rack].tolist()
    dx, dy = (resolved.poses[moved, :2] + arm - centre).tolist()
    across = ux * dy - uy * dx
    # The rim's velocity at the foot of the centre on the line is -across along the axis.
    return -math.copysign(1.0, across) * (1.0 if is_second else -1.0)


def _shaft_sense(resolved: Resolved, coupling: model.Coupling, stated: float) -> float:
    """+1, or -1 where the shafts of a universal joint lie on planes that face one another, so that
    the same turn counts the other way; raises a `ValueOutOfRangeError` if they stand at another
    angle than is stated. In one plane it is only stated."""
    document, planes = resolved.document, resolved.planes
    index = {body.id: k for k, body in enumerate(document.bodies)}
    on = [
        planes.of[index[document.joint(name).first.body]]
        for name in (coupling.first, coupling.second)
    ]
    if on[0] == on[1]:
        return 1.0
    frames = planes.frames(resolved.poses, resolved.heights)
    cosine = float(frames[on[0]][:, 2] @ frames[on[1]][:, 2])
    angle = math.acos(min(abs(cosine), 1.0))
    if abs(angle - abs(stated)) > ASKEW:
        words = [resolved.units.format(each, ANGLE) for each in (angle, abs(stated))]
        raise ValueOutOfRangeError(
            f"the shafts stand at {words[0]} to one another, not at {words[1]}.",
            where=f"coupling '{coupling.title}'",
            remedy="State the angle at which their planes stand, or tilt one of those.",
        )
    return math.copysign(1.0, cosine)


def _bevel_side(resolved: Resolved, coupling: model.Coupling) -> float:
    """+1 where two bevel wheels turn against one another as their planes see it, else -1.

    With n the normals of their planes, p from where the shafts meet to where the wheels touch, and
    w the turns, both move alike there: w1 n1 × p = w2 n2 × p. Along the normals p goes to the sides
    on which the wheels lie, so w1 and w2 differ in sign if both lie before, or behind, where the
    shafts meet. Raises a `ValueOutOfRangeError` if these are parallel or do not meet.
    """
    document, planes = resolved.document, resolved.planes
    frames = planes.frames(resolved.poses, resolved.heights)
    index = {body.id: k for k, body in enumerate(document.bodies)}
    wheels = wheels_of(document.bodies, document.joints, coupling)
    middles, normals, signs = [], [], []
    for name, joint_id in zip(wheels, (coupling.first, coupling.second), strict=True):
        k, joint = index[name], document.joint(joint_id)
        side = joint.first if joint.first.body == name else joint.second
        signs.append(1.0 if side is joint.second else -1.0)
        solid = resolved.part_of(document.bodies[k])
        x, y = carried(resolved.poses[k], solid.places[side.place])
        pieces = {p.slab for p in (*coupling.first_pieces, *coupling.second_pieces)}
        slabs = [s for s in solid.slabs if s.id in pieces] or list(solid.slabs)
        rise = float(np.mean([(s.bottom + s.top) / 2 for s in slabs])) if slabs else 0.0
        frame = frames[planes.of[k]]
        middles.append(frame[:, :3] @ [x, y, resolved.heights[k] + rise] + frame[:, 3])
        normals.append(frame[:, 2])
    where = f"coupling '{coupling.title}'"
    both = np.column_stack([normals[0], -normals[1]])
    between = middles[1] - middles[0]
    if np.linalg.norm(np.cross(*normals)) < PARALLEL:
        raise ValueOutOfRangeError(
            "its shafts are parallel.",
            where=where,
            remedy="Couple them as wheels in mesh, or lay one on a plane at an angle.",
        )
    ways = np.linalg.lstsq(both, between, rcond=None)[0]
    past = float(np.linalg.norm(both @ ways - between))
    if past > PASSES:
        raise ValueOutOfRangeError(
            f"its shafts pass one another {resolved.units.format(past, LENGTH)} apart.",
            where=where,
            remedy="Move one of the planes until both shafts meet.",
        )
    same = (ways[0] <= 0.0) == (ways[1] <= 0.0)
    return signs[0] * signs[1] * (1.0 if same else -1.0)


def _as_drawn(
    terms: list[tuple[int, Kernel, float]], poses: Floats, table: JointTable, size: float
) -> Coupled:
    merged: dict[tuple[int, Kernel], float] = {}
    for joint, kernel, factor in terms:
        merged[joint, kernel] = merged.get((joint, kernel), 0.0) + factor
    largest = max((abs(f) for f in merged.values()), default=1.0) or 1.0
    kept = tuple((j, k, f / largest) for (j, k), f in merged.items() if abs(f) > 1e-12 * largest)
    at = frames(table, poses)
    target = sum(
        factor * float(condition(kernel).residual(Rows(table, at, np.array([joint]), size))[0])
        for joint, kernel, factor in kept
    )
    return Coupled(kept, target)
