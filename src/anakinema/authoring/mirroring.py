"""Mirror images of parts and joints, stated in the same expressions."""

from __future__ import annotations

from collections.abc import Mapping

from anakinema.authoring.slabs import with_outlines
from anakinema.document import model
from anakinema.document.connections import Connection, connections_of
from anakinema.document.coupling_kinds import Sizes, coupling_spec
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.edits.base import fresh_id
from anakinema.edits.joints import negative
from anakinema.errors import ValueOutOfRangeError


def mirrored_part(part: model.Part) -> model.Part | None:
    """The part with y stated the other way; None if that gives the very same part."""
    places = tuple(
        place.model_copy(update={"y": negative(place.y), "angle": negative(place.angle)})
        for place in part.places
    )
    slabs = with_outlines(part.slabs, mirrored_outline)
    relations = tuple(
        r.model_copy(update={"value": negative(r.value)})
        if r.kind == "angle" and r.value is not None
        else r
        for r in part.relations
    )
    if part.cams:
        raise ValueOutOfRangeError(
            "the mirror image of a cam is another cam.",
            where=f"part '{part.title}'",
            remedy="Copy it, and turn the order of its program round.",
        )
    curves = tuple(
        curve.model_copy(update={"vertices": _mirrored_vertices(curve.vertices)})
        for curve in part.curves
    )
    image = part.model_copy(
        update={"places": places, "slabs": slabs, "relations": relations, "curves": curves}
    )
    return None if image == part else image


def mirrored_outline(outline: model.Outline) -> model.Outline:
    """An outline with y stated the other way."""
    if isinstance(outline, model.Hull):
        rounds = tuple(r.model_copy(update={"y": negative(r.y)}) for r in outline.rounds)
        return outline.model_copy(update={"rounds": rounds})
    if isinstance(outline, model.Path | model.SlotAlong):
        return outline.model_copy(update={"vertices": _mirrored_vertices(outline.vertices)})
    if isinstance(outline, model.CamOutline):
        return outline
    image = outline.model_copy(update={"y": negative(outline.y)})
    if isinstance(image, model.RatchetWheel):
        image = image.model_copy(update={"reversed": not image.reversed})
    if isinstance(image, model.TURNED_SHAPES):
        return image.model_copy(update={"turned": negative(image.turned)})
    return image


def _mirrored_vertices(vertices: tuple[model.Vertex, ...]) -> tuple[model.Vertex, ...]:
    return tuple(
        v.model_copy(update={"y": negative(v.y), "bulge": negative(v.bulge)}) for v in vertices
    )


class Images:
    """Mirror images of parts and units of a document, each made once; what is its own image stays.

    parts, units : those that are new.
    """

    def __init__(self, document: model.Document) -> None:
        self._document = document
        self._part_ids = {part.id for part in document.parts}
        self._unit_ids = {unit.id for unit in document.subassemblies}
        self._known_parts: dict[str, str] = {}
        self._known_units: dict[str, str] = {}
        self.parts: list[model.Part] = []
        self.units: list[model.Subassembly] = []

    def part(self, part_id: str) -> str:
        """Id of the image of a part: itself if it is its own."""
        if part_id not in self._known_parts:
            part = self._document.part(part_id)
            image = mirrored_part(part)
            self._known_parts[part_id] = part_id
            if image is not None:
                new = fresh_id(f"{part_id}_mirrored", self._part_ids)
                self._part_ids.add(new)
                self.parts.append(
                    image.model_copy(update={"id": new, "name": f"{part.title}, mirrored"})
                )
                self._known_parts[part_id] = new
        return self._known_parts[part_id]

    def unit(self, unit_id: str) -> str:
        """Id of the image of a unit, with images of all that is in it."""
        if unit_id in self._known_units:
            return self._known_units[unit_id]
        unit = model.next_by_id(self._document.subassemblies, unit_id)
        kinds = joint_kinds(self._document, unit)
        new = fresh_id(f"{unit_id}_mirrored", self._unit_ids)
        self._unit_ids.add(new)
        self._known_units[unit_id] = new
        bodies = tuple(
            body.model_copy(update={"part": self.part(body.part), "pose": mirrored_pose(body.pose)})
            for body in unit.bodies
        )
        instances = tuple(
            use.model_copy(
                update={
                    "subassembly": self.unit(use.subassembly),
                    "pose": mirrored_pose(use.pose),
                    "settings": self.settings(use),
                    "placements": tuple(
                        p.model_copy(update={"pose": mirrored_pose(p.pose)}) for p in use.placements
                    ),
                }
            )
            for use in unit.instances
        )
        self.units.append(
            unit.model_copy(
                update={
                    "id": new,
                    "name": f"{unit.title}, mirrored",
                    "origin": "",
                    "bodies": bodies,
                    "joints": tuple(mirrored_joint(joint) for joint in unit.joints),
                    "instances": instances,
                    **connections_of(unit)
                    .changed(lambda connection: mirrored_connection(connection, kinds))
                    .fields,
                }
            )
        )
        return new

    def settings(self, use: model.Instance) -> tuple[model.JointSetting, ...]:
        """What a use sets of its inner joints, for its image."""
        unit = model.next_by_id(self._document.subassemblies, use.subassembly)
        kinds = joint_kinds(self._document, unit)
        return tuple(
            setting.model_copy(update={"limits": _counted_back(setting.limits)})
            if spec_of(kinds[setting.joint]).mirrors
            else setting
            for setting in use.settings
        )


def mirrored_connection(connection: Connection, kinds: Mapping[str, model.JointKind]) -> Connection:
    """A tie between mirror images of what it ties; ``kinds`` are those of the joints it names.

    A belt meets its wheels in the other order; a ratio of a turn to a slide changes its sense.
    """
    if isinstance(connection, model.Belt):
        return connection.model_copy(update={"wheels": connection.wheels[::-1]})
    if not (
        isinstance(connection, model.Coupling)
        and coupling_spec(connection.kind).sizes is Sizes.WAYS
    ):
        return connection
    one, two = (spec_of(kinds[name]).mirrors for name in (connection.first, connection.second))
    return (
        connection
        if one == two
        else connection.model_copy(update={"first_size": negative(connection.first_size)})
    )


def mirrored_pose(pose: model.Pose) -> model.Pose:
    """A pose with y and the angle stated the other way."""
    return model.Pose(x=pose.x, y=negative(pose.y), angle=negative(pose.angle))


def _counted_back(limits: model.Limits) -> model.Limits:
    least, greatest, rest = limits.least, limits.greatest, limits.rest
    return model.Limits(
        least=None if greatest is None else negative(greatest),
        greatest=None if least is None else negative(least),
        rest=None if rest is None else negative(rest),
    )


def mirrored_joint(joint: model.Joint) -> model.Joint:
    """The joint between mirror images: turns count the other way, slides keep theirs."""
    update: dict[str, object] = {"twist": negative(joint.twist), "offset": negative(joint.offset)}
    if spec_of(joint.kind).mirrors:
        update["zero"] = negative(joint.zero)
        update["limits"] = _counted_back(joint.limits)
    return joint.model_copy(update=update)
