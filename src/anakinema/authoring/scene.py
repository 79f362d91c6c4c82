"""What stands on the stage, and what is asked of it as it stands."""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import dataclass
from functools import lru_cache
from typing import cast

import numpy as np

from anakinema.authoring.jointing import curves_on
from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.geometry.poses import carried, transform
from anakinema.mechanism.compile import compile_mechanism


@dataclass(frozen=True, eq=False)
class Scene:
    """What stands on the stage: the document in numbers, and the poses (B, 3) it is shown at."""

    resolved: Resolved
    poses: Floats

    def index(self, body_id: str) -> int | None:
        """Index of a body by its flat id."""
        for index, body in enumerate(self.resolved.document.bodies):
            if body.id == body_id:
                return index
        return None

    def point(self, body_id: str, place_id: str) -> tuple[float, float] | None:
        """Where a place of a body is in the plane, mm."""
        index = self.index(body_id)
        if index is None:
            return None
        body = self.resolved.document.bodies[index]
        found = self.resolved.part_of(body).places.get(place_id)
        if found is None:
            return None
        return carried(self.poses[index], found)


def drawn(document: model.Document) -> Scene:
    """A document as it is drawn; raises an `AnakinemaError` if it is faulty."""
    resolved = resolve(document)
    return Scene(resolved, resolved.poses)


def curve_names(scene: Scene, body_id: str) -> tuple[tuple[str, str], ...]:
    """(name, words) of the curves that a body carries."""
    if scene.index(body_id) is None:
        return ()
    return tuple((name, name.replace("_", " ")) for name in curves_on(scene.resolved, body_id))


@lru_cache(maxsize=128)
def _drawn_curve(curve: Hashable) -> Floats:
    """(N, 2) mm, points along a curve to draw it by, in its part's frame."""
    known = cast("Curve", curve)
    s = np.linspace(0.0, known.length, 241)
    points: Floats = known.at(s[:240] if known.is_closed else s)[0]
    return np.vstack([points, points[:1]]) if known.is_closed else points


def curve_line(resolved: Resolved, joint: model.Joint, poses: Floats) -> Floats:
    """(N, 2) mm, the curve that a joint follows as it stands; empty if it follows none."""
    if not spec_of(joint.kind).has_curve or joint.curve is None:
        return np.zeros((0, 2))
    ids = [body.id for body in resolved.document.bodies]
    index = ids.index(joint.first.body)
    curve = resolved.part_of(resolved.document.bodies[index]).curves[joint.curve]
    points = _drawn_curve(cast("Hashable", curve))
    line: Floats = transform(points, poses[None, index])[0]
    return line


def is_joined(resolved: Resolved, body_id: str) -> bool:
    """Whether any joint holds a body."""
    return any(
        body_id in (joint.first.body, joint.second.body) for joint in resolved.document.joints
    )


def outermost(scene: Scene, body_id: str) -> tuple[float, float] | None:
    """The place of a body farthest from where a joint first holds it, mm: what best pulls it."""
    index = scene.index(body_id)
    if index is None:
        return None
    places = scene.resolved.part_of(scene.resolved.document.bodies[index]).places
    held = next(
        (
            side.place
            for joint in scene.resolved.document.joints
            for side in (joint.first, joint.second)
            if side.body == body_id and side.place in places
        ),
        None,
    )
    if held is None:
        return None
    from_ = places[held]
    far = max(places, key=lambda each: math.dist(places[each][:2], from_[:2]))
    return scene.point(body_id, far)


def joint_value(scene: Scene, joint_id: str) -> float | None:
    """Value of a joint as the scene stands, less its zero: rad or mm."""
    ids = [joint.id for joint in scene.resolved.document.joints]
    if joint_id not in ids:
        return None
    return float(compile_mechanism(scene.resolved).values(scene.poses)[ids.index(joint_id)])
