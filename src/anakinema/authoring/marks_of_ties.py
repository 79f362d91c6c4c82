"""Where couplings and contacts stand on the stage, and which belt passes a place."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.authoring.belting import belt_lines
from anakinema.document import model
from anakinema.document.references import bodies_named, joints_named
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried, transform


@dataclass(frozen=True, slots=True)
class ConnectionMark:
    """A coupling or contact of the document at x, y (mm), between two ends that it ties."""

    kind: str
    id: str
    title: str
    x: float
    y: float
    ends: tuple[tuple[float, float], tuple[float, float]]


def connection_marks(
    resolved: Resolved, poses: Floats, plane: str = "main"
) -> tuple[ConnectionMark, ...]:
    """Marks of what ties bodies of a plane from afar, as they stand at poses (B, 3)."""
    document = resolved.document
    bodies = [body.id for body in document.bodies]
    joints = {joint.id: joint for joint in document.joints}
    own = {each.id for each in resolved.source.couplings}
    own |= {each.id for each in resolved.source.contacts}
    found = []

    def of_joint(name: str) -> tuple[float, float]:
        side = joints[name].second
        index = bodies.index(side.body)
        place = resolved.part_of(document.bodies[index]).places[side.place]
        return carried(poses[index], place)

    def of_body(name: str) -> tuple[float, float]:
        index = bodies.index(name)
        slabs = resolved.part_of(document.bodies[index]).slabs
        if not slabs:
            return float(poses[index, 0]), float(poses[index, 1])
        at = transform(slabs[0].region.centre[None], poses[None, index])[0, 0]
        return float(at[0]), float(at[1])

    lies = {body.id: body.plane for body in document.bodies}

    def is_here(item: model.Coupling | model.Contact) -> bool:
        named = [*bodies_named(item)]
        named += [joints[name].second.body for name in joints_named(item)]
        return all(lies[body] == plane for body in named)

    def add(kind: str, item: model.Coupling | model.Contact, one, two) -> None:  # type: ignore[no-untyped-def]
        if item.id in own:
            x, y = (one[0] + two[0]) / 2, (one[1] + two[1]) / 2
            found.append(ConnectionMark(kind, item.id, item.title, x, y, (one, two)))

    for coupling in filter(is_here, document.couplings):
        add("coupling", coupling, of_joint(coupling.first), of_joint(coupling.second))
    for contact in filter(is_here, document.contacts):
        first = of_body(contact.first.body)
        second = first if contact.second is None else of_body(contact.second.body)
        add("contact", contact, first, second)
    return tuple(found)


def belt_near(resolved: Resolved, poses: Floats, x: float, y: float, reach: float) -> str | None:
    """Id of the document's belt or chain that passes within ``reach`` mm of a place."""
    own = {belt.id for belt in resolved.source.belts}
    for belt, (line, thickness) in zip(
        resolved.document.belts, belt_lines(resolved, poses), strict=True
    ):
        if belt.id not in own or len(line) < 2:
            continue
        one, along = line[:-1], np.diff(line, axis=0)
        square = np.maximum((along**2).sum(axis=1), 1e-12)
        share = np.clip((((x, y) - one) * along).sum(axis=1) / square, 0.0, 1.0)
        away = np.hypot(*(one + share[:, None] * along - (x, y)).T)
        if away.min() <= reach + thickness / 2:
            return belt.id
    return None
