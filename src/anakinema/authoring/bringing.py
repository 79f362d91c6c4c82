"""Where a body comes to that is joined: it goes with all that hangs on it."""

from __future__ import annotations

import math

import numpy as np

from anakinema.authoring.wishes import Wish
from anakinema.document import model
from anakinema.document.body_graph import body_graph, group_of, way_between
from anakinema.document.kinds import Rider, Way, spec_of
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried, within


def hanging_on(resolved: Resolved, mover: str, wish: Wish) -> tuple[int, ...] | None:
    """Indices of the body that comes and all that hangs on it; None if that is held already."""
    document = resolved.document
    index = {body.id: i for i, body in enumerate(document.bodies)}
    seen = group_of(body_graph(document.bodies, document.joints, grounded=False), mover)
    target = wish.second.body
    if target in seen or any(document.body(body).fixed for body in seen):
        return None
    return tuple(sorted(index[body] for body in seen))


def brought_together(
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
    pose = poses[resolved.document.bodies.index(body)]
    angle = float(pose[2])
    away = np.array([within(pose, (first.x, first.y))])
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
    return (*carried(pose, (lx, ly)), turn)


def ring_between(resolved: Resolved, wish: Wish) -> tuple[int, ...]:
    """Bodies on the shortest way between the two through existing joints: the loop closed."""
    document = resolved.document
    graph = body_graph(document.bodies, document.joints)
    index = {body.id: i for i, body in enumerate(document.bodies)}
    way = way_between(graph, wish.first.body, wish.second.body)
    return tuple(index[body] for body in way)
