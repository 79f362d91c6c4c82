"""What the Assemble station asks: the scene as it stands, spots, joins, drags and doubts."""

from __future__ import annotations

import math
from collections.abc import Hashable, Iterator, Set
from dataclasses import dataclass
from functools import lru_cache
from typing import cast

import numpy as np

from anakinema.building.doubts import Doubt, doubts
from anakinema.building.joining import Proposal, propose
from anakinema.building.jointing import curves_on
from anakinema.building.measuring import Reading, at_spot, between_spots, gap_between
from anakinema.building.placing import next_colour, placed_at
from anakinema.building.rehanging import hangers, one_piece, removed
from anakinema.building.rejoining import rejoined
from anakinema.building.section import Axis, Cut, faces, lifted, section, section_through
from anakinema.building.skeleton import dressed, stick_between
from anakinema.building.spots import BodySpot, body_spot
from anakinema.building.wishes import Wish
from anakinema.document import model
from anakinema.document.flatten import JOINT
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.joints import SetZero
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Add, AddDriver
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.geometry.region import Region
from anakinema.mechanism.compile import compile_mechanism
from anakinema.motion.drag import Drag
from anakinema.parts.shelf import recipe
from anakinema.units import LENGTH


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
    x, y, angle = (float(v) for v in poses[index])
    c, s = math.cos(angle), math.sin(angle)
    return np.asarray(points @ np.array([[c, s], [-s, c]]) + (x, y))


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


def proposals(scene: Scene, wish: Wish) -> Iterator[Proposal | AnakinemaError]:
    """What a join would come to, or why it cannot be."""
    try:
        yield propose(scene.resolved, scene.poses, wish)
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


def rejoin(
    scene: Scene, joint_id: str, side: str, spot: BodySpot | None
) -> tuple[Edit, tuple[str, ...]]:
    """The edit that gives a joint another 'first' or 'second' place, or 'flip's it; misfits.

    Raises an `AnakinemaError` if it cannot be joined so.
    """
    found = rejoined(
        scene.resolved,
        scene.poses,
        joint_id,
        first=spot if side == "first" else None,
        second=spot if side == "second" else None,
        flip=side == "flip",
    )
    if not found.proposal.is_closed:
        apart = scene.resolved.units.format(found.proposal.apart, LENGTH)
        raise ValueOutOfRangeError(
            f"its loop cannot close there: {apart} stay open.",
            where=f"joint '{scene.resolved.document.joint(joint_id).title}'",
            remedy="Choose another place, or change a length first.",
        )
    return found.edit, found.misfits


def drive(scene: Scene, joint_id: str) -> Edit | None:
    """The edit that lets the program move a joint: a full turn, or its range, or 50 mm."""
    value = joint_value(scene, joint_id)
    document, source = scene.resolved.document, scene.resolved.source
    if value is None or any(d.joint == joint_id for d in source.program.drivers):
        return None
    index = [joint.id for joint in document.joints].index(joint_id)
    joint, limits = document.joints[index], scene.resolved.joints[index]
    angular = spec_of(joint.kind).is_angular
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
    """Outlines of an item that is about to be placed, see `placed_at`; of a set its first part.

    None where its present sizes make no sound outline.
    """
    own = document.parts if item.startswith("part:") else ()
    bare = model.Document(units=document.units, parameters=document.parameters, parts=own)
    try:
        edit, body = placed_at(bare, item, 0.0, 0.0)
        placed = resolve(edit.apply(bare))
        return tuple(slab.region for slab in placed.part_of(placed.document.body(body)).slabs)
    except AnakinemaError:
        return ()


@dataclass(frozen=True, slots=True)
class StackSection:
    """A cut through the stack, and where it lies in words."""

    cuts: tuple[Cut, ...]
    axes: tuple[Axis, ...]
    words: str


def stack_section(scene: Scene, poses: Floats, joints: tuple[str, ...]) -> StackSection:
    """A level cut through the first of some joints, or on the line through two pins."""
    document = scene.resolved.document
    chosen = section_through(document, joints)
    points = []
    for joint_id in chosen:
        side = document.joint(joint_id).second
        place = body_spot(scene.resolved, poses, side.body, side.place)
        points.append((place.x, place.y))
    titles = [document.joint(joint_id).title for joint_id in chosen]
    x, y, angle, words = 0.0, 0.0, 0.0, "along the level line through the origin"
    if points:
        (x, y), words = points[0], f"along the level line through {titles[0]}"
    if len(points) == 2 and math.dist(points[0], points[1]) > 1e-6:
        (ax, ay), (bx, by) = points
        angle = math.atan2(by - ay, bx - ax)
        words = f"through {titles[0]} and {titles[1]}"
    cuts, axes = section(scene.resolved, poses, x, y, angle)
    return StackSection(cuts, axes, words)


def lifted_body(scene: Scene, body: str, height: float) -> Edit:
    """The edit that stands a body at a height (mm) in the stack."""
    return lifted(scene.resolved, body, height)


def stack_faces(scene: Scene, without: str) -> tuple[float, ...]:
    """Heights (mm) of the faces of all other bodies."""
    return faces(scene.resolved, without)


def measure_now(scene: Scene, poses: Floats, spots: list[BodySpot]) -> Reading:
    """A reading of one spot or between two, where they are at these poses."""
    now = [body_spot_like(scene, poses, spot) for spot in spots]
    if len(now) == 1:
        return at_spot(scene.resolved, now[0])
    return between_spots(scene.resolved, now[0], now[1])


def body_spot_like(scene: Scene, poses: Floats, spot: BodySpot) -> BodySpot:
    """The same spot where it is at other poses; as it was if its part has lost it."""
    try:
        return body_spot(scene.resolved, poses, spot.body, spot.spot.place.id)
    except KeyError:
        return spot


def gap_now(scene: Scene, poses: Floats, first: str, second: str) -> Reading | None:
    """The smallest gap of two bodies at these poses; None for a body and itself."""
    one, two = scene.index(first), scene.index(second)
    if one is None or two is None or one == two:
        return None
    return gap_between(scene.resolved, poses, one, two)


def kept_measure(scene: Scene, one: BodySpot, two: BodySpot) -> Edit:
    """The edit that keeps a distance as a dimension and a lane."""
    document = scene.resolved.document
    edits: list[Edit] = []
    for spot in (one, two):
        if not spot.spot.known:
            edits.append(AddPlaces(document.body(spot.body).part, (spot.spot.place,)))
    titles = [document.body(spot.body).title for spot in (one, two)]
    taken = [measure.id for measure in scene.resolved.source.measures]
    sides = [model.Side(body=spot.body, place=spot.spot.place.id) for spot in (one, two)]
    measure = model.KeptMeasure(
        id=fresh_id(f"{titles[0]} to {titles[1]}", taken),
        name=f"{titles[0]} to {titles[1]}",
        measure=model.DistanceMeasure(kind="distance", first=sides[0], second=sides[1]),
    )
    edits.append(Add("Keep measure", measures=(measure,)))
    return Together("Keep measure", tuple(edits))


def measures_now(
    scene: Scene, poses: Floats
) -> list[tuple[str, str, tuple[float, float], tuple[float, float]]]:
    """Kept distances: id, value in words, and both points (mm) at these poses."""
    out = []
    for kept in scene.resolved.document.measures:
        if not isinstance(kept.measure, model.DistanceMeasure):
            continue
        points = []
        for side in (kept.measure.first, kept.measure.second):
            spot = body_spot(scene.resolved, poses, side.body, side.place)
            points.append((spot.x, spot.y))
        words = scene.resolved.units.format(math.dist(points[0], points[1]), LENGTH)
        out.append((kept.id, words, points[0], points[1]))
    return out


def stick(
    scene: Scene,
    start: tuple[tuple[float, float], BodySpot | None],
    end: tuple[tuple[float, float], BodySpot | None],
) -> tuple[Edit, str]:
    """A bare length between two points (mm), pinned to the spots given; the edit and the body."""
    return stick_between(scene.resolved, start[0], end[0], start[1], end[1])


def dressing(scene: Scene, body: str, recipe_id: str) -> Edit:
    """The edit that gives a stick a body from the shelf."""
    colour = next_colour(scene.resolved.source, recipe(recipe_id).colour)
    return dressed(scene.resolved, body, recipe_id, colour)


def made_one(scene: Scene, bodies: tuple[str, ...]) -> Edit:
    """The edit that makes bodies one piece as they stand; raises an `AnakinemaError`."""
    return one_piece(scene.resolved, scene.poses, bodies)


def rehanging(scene: Scene, going: frozenset[str]) -> dict[str, tuple[BodySpot, ...]]:
    """Joints that bodies would take with them, and where each could hang instead."""
    inner = {
        body.id
        for body in scene.resolved.document.bodies
        if body.id in going or body.id.partition(JOINT)[0] in going
    }
    return hangers(scene.resolved, scene.poses, frozenset(inner))


def removal(scene: Scene, going: frozenset[str], hung: dict[str, BodySpot]) -> Edit:
    """The edit that takes bodies out, some of their joints hung elsewhere first."""
    return removed(scene.resolved, going, hung)
