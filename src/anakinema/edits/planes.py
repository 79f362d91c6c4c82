"""Edits of planes of motion, and of what lies on them."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.flatten import JOINT
from anakinema.document.kinds import spec_of
from anakinema.document.model import Document, next_by_id
from anakinema.edits.base import Around, Keyed, changed, replaced
from anakinema.errors import ValueOutOfRangeError


@dataclass(frozen=True)
class AddPlane(Keyed):
    """A new plane of motion."""

    plane: model.Plane
    label = "New plane"
    subject = ("plane",)

    def apply(self, document: Document) -> Document:
        return changed(document, planes=(*document.planes, self.plane))


@dataclass(frozen=True)
class SetPlane(Keyed):
    """Set a field of a plane: 'name', where it lies, or what it is 'on'."""

    plane: str
    field: str
    value: object
    subject = ("plane", "field")

    @property
    def label(self) -> str:
        return f"Change plane {self.plane.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        plane = changed(next_by_id(document.planes, self.plane), **{self.field: self.value})
        return document.model_copy(update={"planes": replaced(document.planes, plane)})


@dataclass(frozen=True)
class RemovePlane(Keyed):
    """Take a plane out on which nothing lies."""

    plane: str
    label = "Delete plane"
    subject = ("plane",)

    def apply(self, document: Document) -> Document:
        gone = next_by_id(document.planes, self.plane)
        on_it = [b.title for b in document.bodies if b.plane == self.plane]
        on_it += [use.title for use in document.instances if use.plane == self.plane]
        if on_it:
            more = f" and {len(on_it) - 3} more" if len(on_it) > 3 else ""
            raise ValueOutOfRangeError(
                f"{', '.join(on_it[:3])}{more} lie on it.",
                where=f"plane '{gone.title}'",
                remedy="Move them to another plane first, or delete them.",
            )
        if gone.id == document.planes[0].id:
            raise ValueOutOfRangeError(
                "it is the one that all others are seen from.",
                where=f"plane '{gone.title}'",
                remedy="Delete another.",
            )
        left = tuple(plane for plane in document.planes if plane.id != self.plane)
        return document.model_copy(update={"planes": left})


@dataclass(frozen=True)
class MoveToPlane(Keyed):
    """Lay bodies and instances on another plane, where they are in theirs."""

    things: tuple[str, ...]
    plane: str
    label = "Move to plane"
    subject = ("things", "plane")

    def apply(self, document: Document) -> Document:
        next_by_id(document.planes, self.plane)
        return document.model_copy(
            update={
                "bodies": tuple(
                    changed(body, plane=self.plane) if body.id in self.things else body
                    for body in document.bodies
                ),
                "instances": tuple(
                    changed(use, plane=self.plane) if use.id in self.things else use
                    for use in document.instances
                ),
            }
        )


@dataclass(frozen=True)
class OnPlane(Around):
    """An edit whose new bodies lie on the plane of what they are joined to, else on ``plane``."""

    plane: str

    def apply(self, document: Document) -> Document:
        """The edit, and then what is new in its place; raises what the edit raises."""
        after = self.edit.apply(document)
        before = {each.id for each in _things(document)}
        first = after.planes[0].id
        new = {e.id for e in _things(after) if e.id not in before and e.plane == first}
        if not new or len(after.planes) < 2:
            return after
        plane_of = {each.id: each.plane for each in _things(after) if each.id not in new}
        pairs = [
            (joint.first.body.partition(JOINT)[0], joint.second.body.partition(JOINT)[0])
            for joint in after.joints
            if not spec_of(joint.kind).is_rod
        ]
        pairs += [(two, one) for one, two in pairs]
        # What hangs on what is there goes to its plane; what is left begins on the one given.
        _spread(plane_of, pairs)
        for start in sorted(new):
            if start not in plane_of:
                plane_of[start] = self.plane
                _spread(plane_of, pairs)
        return after.model_copy(
            update={
                "bodies": tuple(
                    b.model_copy(update={"plane": plane_of[b.id]}) if b.id in new else b
                    for b in after.bodies
                ),
                "instances": tuple(
                    u.model_copy(update={"plane": plane_of[u.id]}) if u.id in new else u
                    for u in after.instances
                ),
            }
        )


def _things(document: Document) -> list[model.Body | model.Instance]:
    return [*document.bodies, *document.instances]


def _spread(plane_of: dict[str, str], pairs: list[tuple[str, str]]) -> None:
    """What is joined lies on one plane."""
    grows = True
    while grows:
        grows = False
        for one, two in pairs:
            if one in plane_of and two not in plane_of:
                plane_of[two], grows = plane_of[one], True
