"""Edits of units: bodies become a unit, a unit is used again, taken apart, or renewed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from anakinema.document import model
from anakinema.document.connections import connections_of, connections_of_all
from anakinema.document.flatten import JOINT
from anakinema.document.model import Document
from anakinema.document.references import bodies_named, joints_named, renamed
from anakinema.edits.base import Keyed, Source, fresh_id, replaced
from anakinema.errors import ValueOutOfRangeError


@dataclass(frozen=True)
class MakeSubassembly(Keyed):
    """Bodies and uses with the joints between them become a unit, one use of it in their place.

    Couplings, loops and contacts of nothing else go into the unit. ``heights`` are the bodies' in
    the stack, in document units. What else names one of them, or a joint between them, names it
    inside the use from then on.
    """

    bodies: tuple[str, ...]
    unit: str
    use: str
    heights: Mapping[str, float] = field(default_factory=dict, hash=False)
    instances: tuple[str, ...] = ()
    subject = ("unit",)

    @property
    def label(self) -> str:
        return f"Make a subassembly of {len(self.bodies) + len(self.instances)} bodies"

    def apply(self, document: Document) -> Document:
        chosen = set(self.bodies)
        bodies = tuple(
            body.model_copy(update={"height": self.heights.get(body.id, body.height)})
            for body in document.bodies
            if body.id in chosen
        )
        instances = tuple(use for use in document.instances if use.id in self.instances)
        if len(bodies) != len(chosen) or len(instances) != len(self.instances):
            raise KeyError(", ".join(sorted(chosen)))

        def is_in(name: str) -> bool:
            return name in chosen or name.partition(JOINT)[0] in self.instances

        inner = tuple(
            joint
            for joint in document.joints
            if is_in(joint.first.body) and is_in(joint.second.body)
        )
        planes = {body.plane for body in bodies} | {use.plane for use in instances}
        if len(planes) > 1:
            raise ValueOutOfRangeError(
                "what is chosen lies on different planes.",
                where="subassembly",
                remedy="Choose bodies of one plane.",
            )
        unit = model.Subassembly(
            id=self.unit,
            bodies=bodies,
            instances=instances,
            joints=tuple(joint.model_copy(update={"rise": None}) for joint in inner),
        )
        gone = {joint.id for joint in inner}
        connections = connections_of(document)
        inside = connections.kept(
            lambda connection: (
                all(map(is_in, bodies_named(connection)))
                and all(name in gone or is_in(name) for name in joints_named(connection))
            )
        )
        unit = unit.model_copy(update=inside.fields)
        within = set(inside)
        kept = document.model_copy(
            update={
                "bodies": tuple(body for body in document.bodies if body.id not in chosen),
                "joints": tuple(joint for joint in document.joints if joint.id not in gone),
                "subassemblies": (*document.subassemblies, unit),
                "instances": (
                    *(use for use in document.instances if use.id not in self.instances),
                    model.Instance(
                        id=self.use, subassembly=self.unit, plane=next(iter(planes), "main")
                    ),
                ),
                **connections.kept(lambda connection: connection not in within).fields,
            }
        )
        into = f"{self.use}{JOINT}"
        return _renamed(
            kept,
            lambda name: into + name if is_in(name) else name,
            lambda name: into + name if name in gone or is_in(name) else name,
        )


@dataclass(frozen=True)
class Dissolve(Keyed):
    """A use becomes the bodies, joints and uses that its unit is made of.

    The unit stays for its other uses. ``heights`` (document units) are those of all bodies inside
    by their ids there; all of them should have placements, for the use's own pose goes with it.
    """

    use: str
    heights: Mapping[str, float] = field(default_factory=dict, hash=False)
    subject = ("use",)

    @property
    def label(self) -> str:
        return f"Take {self.use.replace('_', ' ')} apart"

    def apply(self, document: Document) -> Document:
        use = model.next_by_id(document.instances, self.use)
        unit = model.next_by_id(document.subassemblies, use.subassembly)
        poses = {placement.body: placement.pose for placement in use.placements}
        limits = {setting.joint: setting.limits for setting in use.settings}
        prefix = f"{self.use}{JOINT}"
        taken = {b.id for b in document.bodies} | {u.id for u in document.instances}
        joint_ids = {joint.id for joint in document.joints}
        names: dict[str, str] = {}
        for inner in [*(b.id for b in unit.bodies), *(u.id for u in unit.instances)]:
            names[inner] = fresh_id(f"{self.use}_{inner}", taken)
            taken.add(names[inner])
        joints: dict[str, str] = {}
        for joint in unit.joints:
            joints[joint.id] = fresh_id(f"{self.use}_{joint.id}", joint_ids)
            joint_ids.add(joints[joint.id])

        def called(inner: str) -> str:
            head, mark, rest = inner.partition(JOINT)
            return f"{names[head]}{mark}{rest}"

        def inside(name: str, known: Mapping[str, str]) -> str:
            if not name.startswith(prefix):
                return name
            head, mark, rest = name.removeprefix(prefix).partition(JOINT)
            return f"{known.get(head) or names[head]}{mark}{rest}"

        bodies = tuple(
            body.model_copy(
                update={
                    "id": names[body.id],
                    "pose": poses.get(body.id, body.pose),
                    "fixed": False,
                    "height": self.heights.get(body.id, body.height),
                    "plane": use.plane,
                }
            )
            for body in unit.bodies
        )
        moved = tuple(
            joint.model_copy(
                update={
                    "id": joints[joint.id],
                    "limits": limits.get(joint.id, joint.limits),
                    "first": joint.first.model_copy(update={"body": called(joint.first.body)}),
                    "second": joint.second.model_copy(update={"body": called(joint.second.body)}),
                }
            )
            for joint in unit.joints
        )
        instances = tuple(
            each.model_copy(
                update={
                    "id": names[each.id],
                    "plane": use.plane,
                    "height": _sum(each.height, use.height),
                    "placements": tuple(
                        model.Placement(body=name.partition(JOINT)[2], pose=pose)
                        for name, pose in poses.items()
                        if name.partition(JOINT)[0] == each.id
                    ),
                    "settings": _settings(each, limits),
                }
            )
            for each in unit.instances
        )
        document = _renamed(
            document, lambda name: inside(name, {}), lambda name: inside(name, joints)
        )
        held = connections_of(document)
        used = [connection.id for connection in held]
        for connection in connections_of(unit):
            own = renamed(connection, called, lambda name: joints.get(name) or called(name))
            new = fresh_id(f"{self.use}_{connection.id}", used)
            used.append(new)
            held += connections_of_all([own.model_copy(update={"id": new})])
        return document.model_copy(
            update={
                "bodies": (*document.bodies, *bodies),
                "joints": (*document.joints, *moved),
                "instances": (*(u for u in document.instances if u.id != self.use), *instances),
                **held.fields,
            }
        )


def _sum(one: Source, two: Source) -> Source:
    if not isinstance(one, str) and not isinstance(two, str):
        return one + two
    if two in (0, 0.0) or one in (0, 0.0):
        return one if two in (0, 0.0) else two
    return f"({one}) + ({two})"


def _settings(
    use: model.Instance, limits: Mapping[str, model.Limits]
) -> tuple[model.JointSetting, ...]:
    """What a use inside sets, and what was set of its joints from further outside."""
    stated = {setting.joint: setting for setting in use.settings}
    for name, given in limits.items():
        head, mark, rest = name.partition(JOINT)
        if mark and head == use.id:
            stated[rest] = model.JointSetting(joint=rest, limits=given)
    return tuple(stated.values())


@dataclass(frozen=True)
class SetInstance(Keyed):
    """Set a field of a use: 'name', 'pose', 'height', 'off' or 'subassembly'."""

    use: str
    field: str
    value: object
    subject = ("use", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of {self.use.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.instances, self.use)
        current = {name: getattr(old, name) for name in type(old).model_fields}
        new = type(old).model_validate({**current, self.field: self.value})
        return document.model_copy(update={"instances": replaced(document.instances, new)})


@dataclass(frozen=True)
class ReplaceSubassembly(Keyed):
    """Put another definition in the place of the unit of its id; all uses follow."""

    unit: model.Subassembly
    label: str = "Change subassembly"
    subject = ("label",)

    def apply(self, document: Document) -> Document:
        return document.model_copy(
            update={"subassemblies": replaced(document.subassemblies, self.unit)}
        )


@dataclass(frozen=True)
class SetSubassembly(Keyed):
    """Rename a unit, or set its note or origin; all uses follow."""

    unit: str
    field: str
    value: Source
    subject = ("unit", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of subassembly {self.unit.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.subassemblies, self.unit)
        new = old.model_copy(update={self.field: self.value})
        return document.model_copy(update={"subassemblies": replaced(document.subassemblies, new)})


def _renamed(
    document: Document, body: Callable[[str], str], joint_name: Callable[[str], str]
) -> Document:
    """The document with bodies and joints called otherwise wherever they are named."""
    held = {name: getattr(document, name) for name in ("joints", "requirements", "measures")}
    held |= {"program": document.program, **connections_of(document).fields}
    return document.model_copy(
        update={name: renamed(each, body, joint_name) for name, each in held.items()}
    )
