"""What the Assemble station asks: the scene as it stands, spots, joins, drags and doubts."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Set
from dataclasses import dataclass

from anakinema.building.doubts import Doubt, doubts
from anakinema.building.joining import Proposal, Wish, propose
from anakinema.document import model
from anakinema.document.resolve import Resolved, is_angular, resolve
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.structure import AddDriver, SetZero
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.geometry.region import Region
from anakinema.mechanism.compile import compile_mechanism
from anakinema.motion.drag import Drag
from anakinema.parts.shelf import recipe


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
        x, y, angle = (float(v) for v in self.poses[index])
        c, s = math.cos(angle), math.sin(angle)
        return x + c * found[0] - s * found[1], y + s * found[0] + c * found[1]


class Trial:
    """A drag to try: pulls a body of a scene by the point it was grabbed at."""

    def __init__(self, scene: Scene, body: int, x: float, y: float, held: Set[str]) -> None:
        bodies = scene.resolved.document.bodies
        still = frozenset(k for k, other in enumerate(bodies) if other.id in held)
        self._drag = Drag(compile_mechanism(scene.resolved), scene.poses, still)
        self._body = body
        px, py, angle = (float(v) for v in scene.poses[body])
        c, s = math.cos(angle), math.sin(angle)
        self._point = (c * (x - px) + s * (y - py), c * (y - py) - s * (x - px))
        self._joints = [joint.title for joint in scene.resolved.document.joints]
        self.poses = scene.poses
        self.away = 0.0
        self.held_by: tuple[str, ...] = ()

    def pull(self, x: float, y: float) -> Floats:
        """Poses (B, 3) with the grabbed point as near to (x, y) mm as it can come."""
        pulled = self._drag.pull(self._body, self._point, (x, y))
        self.poses, self.away = pulled.poses, pulled.away
        self.held_by = tuple(self._joints[j] for j in pulled.held_by)
        return self.poses

    def grabbed_at(self) -> tuple[float, float]:
        """Where the grabbed point is now, mm."""
        x, y, angle = (float(v) for v in self.poses[self._body])
        c, s = math.cos(angle), math.sin(angle)
        px, py = self._point
        return x + c * px - s * py, y + s * px + c * py


def is_joined(resolved: Resolved, body_id: str) -> bool:
    """Whether any joint holds a body."""
    return any(
        body_id in (joint.first.body, joint.second.body) for joint in resolved.document.joints
    )


def proposals(
    scene: Scene, wish: Wish, interrupt: Callable[[], None]
) -> Iterator[Proposal | AnakinemaError]:
    """What a join would come to, or why it cannot be."""
    try:
        yield propose(scene.resolved, scene.poses, wish, interrupt)
    except AnakinemaError as error:
        yield error


def doubts_of(resolved: Resolved, evaluation: Evaluation | None) -> tuple[Doubt, ...]:
    """Doubts about a document; ``evaluation`` counts only if it is of that document."""
    if evaluation is not None and evaluation.source is not resolved.source:
        evaluation = None
    return doubts(resolved, evaluation)


def joint_value(scene: Scene, joint_id: str) -> float | None:
    """Value of a joint as the scene stands, less its zero: rad or mm."""
    ids = [joint.id for joint in scene.resolved.document.joints]
    if joint_id not in ids:
        return None
    return float(compile_mechanism(scene.resolved).values(scene.poses)[ids.index(joint_id)])


def zero_here(scene: Scene, joint_id: str) -> Edit | None:
    """The edit that makes the present value of a joint its zero."""
    value = joint_value(scene, joint_id)
    return None if value is None else SetZero(joint_id, value)


def drive(scene: Scene, joint_id: str) -> Edit | None:
    """The edit that lets the program move a joint: a full turn, or its range, or 50 mm."""
    value = joint_value(scene, joint_id)
    document, source = scene.resolved.document, scene.resolved.source
    if value is None or any(d.joint == joint_id for d in source.program.drivers):
        return None
    index = [joint.id for joint in document.joints].index(joint_id)
    joint, limits = document.joints[index], scene.resolved.joints[index]
    angular = is_angular(joint.kind)
    unit, factor = ("deg", math.pi / 180) if angular else ("mm", 1.0)
    start, end = value, value + (2 * math.pi if angular else 50.0)
    if limits.least is not None and limits.greatest is not None:
        start = min(max(value, limits.least), limits.greatest)
        end = limits.greatest if limits.greatest - start > start - limits.least else limits.least
    taken = [d.id for d in source.program.drivers]
    driver = model.Driver(
        id=fresh_id(joint.second.body, taken),
        joint=joint_id,
        start=f"{start / factor:.9g} {unit}",
        rate="30 rpm" if angular else "50 mm/(1 s)",
    )
    return AddDriver(driver, f"{end / factor:.9g} {unit}", f"2 {unit}" if angular else "1 mm")


def part_outlines(document: model.Document, item: str) -> tuple[Region, ...]:
    """Outlines of an item that is about to be placed: ``shelf:`` and a recipe, or ``part:``.

    None where its present sizes make no sound outline.
    """
    source, _, name = item.partition(":")
    part = document.part(name) if source == "part" else recipe(name).part("item")
    alone = model.Document(
        units=document.units, parameters=document.parameters,
        parts=tuple(document.parts if source == "part" else (part,)),
    )  # fmt: skip
    try:
        return tuple(slab.region for slab in resolve(alone).parts[part.id].slabs)
    except AnakinemaError:
        return ()
