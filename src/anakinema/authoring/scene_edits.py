"""What is done to a scene by one gesture, as edits; and what a gesture would come to."""

from __future__ import annotations

import math
from collections.abc import Iterator

from anakinema.authoring.diagnostics import Diagnostic, diagnostics
from anakinema.authoring.joining import Proposal, propose
from anakinema.authoring.placing import next_colour, placed_at
from anakinema.authoring.rehang import hangers, one_piece, removed
from anakinema.authoring.rejoining import rejoined
from anakinema.authoring.scene import Scene, joint_value
from anakinema.authoring.skeleton import dressed, stick_between
from anakinema.authoring.snap_points import PlacedSnap
from anakinema.authoring.wishes import Wish
from anakinema.document import model
from anakinema.document.flatten import JOINT
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.joints import SetZero
from anakinema.edits.structure import AddDriver
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.region import Region
from anakinema.parts.shelf import recipe
from anakinema.units import LENGTH


def proposals(scene: Scene, wish: Wish) -> Iterator[Proposal | AnakinemaError]:
    """What a join would come to, or why it cannot be."""
    try:
        yield propose(scene.resolved, scene.poses, wish)
    except AnakinemaError as error:
        yield error


def diagnostics_of(resolved: Resolved, evaluation: Evaluation | None) -> tuple[Diagnostic, ...]:
    """Doubts about a document; ``evaluation`` counts only if it is of that document."""
    if evaluation is not None and evaluation.source is not resolved.source:
        evaluation = None
    return diagnostics(resolved, evaluation)


def zero_here(scene: Scene, joint_id: str) -> Edit | None:
    """The edit that makes the present value of a joint its zero."""
    value = joint_value(scene, joint_id)
    return None if value is None else SetZero(joint_id, value)


def rejoin(
    scene: Scene, joint_id: str, side: str, snap: PlacedSnap | None
) -> tuple[Edit, tuple[str, ...]]:
    """The edit that gives a joint another 'first' or 'second' place, or 'flip's it; misfits.

    Raises an `AnakinemaError` if it cannot be joined so.
    """
    found = rejoined(
        scene.resolved,
        scene.poses,
        joint_id,
        first=snap if side == "first" else None,
        second=snap if side == "second" else None,
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


def stick(
    scene: Scene,
    start: tuple[tuple[float, float], PlacedSnap | None],
    end: tuple[tuple[float, float], PlacedSnap | None],
) -> tuple[Edit, str]:
    """A bare length between two points (mm), pinned to the snaps given; the edit and the body."""
    return stick_between(scene.resolved, start[0], end[0], start[1], end[1])


def dressing(scene: Scene, body: str, recipe_id: str) -> Edit:
    """The edit that gives a stick a body from the shelf."""
    colour = next_colour(scene.resolved.source, recipe(recipe_id).colour)
    return dressed(scene.resolved, body, recipe_id, colour)


def made_one(scene: Scene, bodies: tuple[str, ...]) -> Edit:
    """The edit that makes bodies one piece as they stand; raises an `AnakinemaError`."""
    return one_piece(scene.resolved, scene.poses, bodies)


def rehanging(scene: Scene, going: frozenset[str]) -> dict[str, tuple[PlacedSnap, ...]]:
    """Joints that bodies would take with them, and where each could hang instead."""
    inner = {
        body.id
        for body in scene.resolved.document.bodies
        if body.id in going or body.id.partition(JOINT)[0] in going
    }
    return hangers(scene.resolved, scene.poses, frozenset(inner))


def removal(scene: Scene, going: frozenset[str], hung: dict[str, PlacedSnap]) -> Edit:
    """The edit that takes bodies out, some of their joints hung elsewhere first."""
    return removed(scene.resolved, going, hung)
