"""The flat document that the mechanism is made of: units unfolded, what is switched off left out.

Everything later works on the flat document; only edits and files see units. A body or joint
inside a use is called ``use__inner``.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Set
from dataclasses import dataclass, field

from anakinema.document import model
from anakinema.document.connections import Connection, connections_of, connections_of_all
from anakinema.document.references import bodies_named, joints_named, renamed
from anakinema.errors import MissingNameError, ValueOutOfRangeError

JOINT = "__"
"""Between the id of a use and the id of what is inside it."""
DEEPEST = 12
MOST_THINGS = 20_000
"""Bodies, joints and uses that units may unfold to."""
MOST_BODIES = 5000


@dataclass(frozen=True, slots=True)
class Carrier:
    """A use that carries a body: its pose and its lift in the stack."""

    pose: model.Pose
    height: model.Quantity
    title: str


@dataclass(frozen=True, slots=True)
class Flat:
    """A document without units and without what is switched off.

    carriers : by body id, the uses that carry it, outermost first; none for a body that stands
    in the plane by itself or by a placement. off : titles of what was left out.
    """

    document: model.Document
    carriers: Mapping[str, tuple[Carrier, ...]]
    lifts: Mapping[str, tuple[Carrier, ...]]
    off: tuple[str, ...]


@dataclass(slots=True)
class _Unfolded:
    bodies: list[model.Body] = field(default_factory=list)
    joints: list[model.Joint] = field(default_factory=list)
    connections: list[Connection] = field(default_factory=list)
    carriers: dict[str, tuple[Carrier, ...]] = field(default_factory=dict)
    lifts: dict[str, tuple[Carrier, ...]] = field(default_factory=dict)
    dark: set[str] = field(default_factory=set)
    off: list[str] = field(default_factory=list)


def flatten(document: model.Document) -> Flat:
    """The flat document; the same object where there is nothing to unfold or leave out.

    Raises `MissingNameError` for a use of a unit that does not exist and
    `ValueOutOfRangeError` for units that contain each other in a ring.
    """
    out = _Unfolded()
    if document.instances:
        units = {unit.id: unit for unit in document.subassemblies}
        _weigh(document, units)
        for use in document.instances:
            _unfold(use, "", units, (), (), out, is_off=use.off, plane=use.plane)
    bodies = (*document.bodies, *out.bodies)
    joints = (*document.joints, *out.joints)
    dark = {body.id for body in bodies if body.off} | out.dark
    fallen = _fallen(document.planes, bodies, dark)
    dark |= {body.id for body in bodies if body.plane in fallen}
    idle = {j.id for j in joints if j.off or j.first.body in dark or j.second.body in dark}
    connections = connections_of(document) + connections_of_all(out.connections)
    tied = connections.kept(
        lambda connection: not (connection.off or _names_any(connection, dark, idle))
    )
    unasked = [each for each in document.requirements if each.off]
    if not (document.instances or dark or idle or unasked or tied != connections):
        return Flat(document, {}, {}, ())
    out.off += [each.title for each in (*bodies, *joints, *connections, *unasked) if each.off]
    update: dict[str, object] = {
        "bodies": tuple(body for body in bodies if body.id not in dark),
        "joints": tuple(joint for joint in joints if joint.id not in idle),
        "subassemblies": (),
        "instances": (),
        **tied.fields,
    }
    if fallen:
        update["planes"] = tuple(plane for plane in document.planes if plane.id not in fallen)
    if unasked:
        update["requirements"] = tuple(each for each in document.requirements if not each.off)
    if dark or idle:
        drivers = {d.id for d in document.program.drivers if d.joint in idle}
        update["program"] = program_without(document.program, drivers)
        for field in ("requirements", "measures"):
            asked = update.get(field, getattr(document, field))
            assert isinstance(asked, tuple)
            update[field] = tuple(each for each in asked if not _names_any(each, dark, idle))
    return Flat(
        document.model_copy(update=update), out.carriers, out.lifts, tuple(dict.fromkeys(out.off))
    )


def _fallen(
    planes: tuple[model.Plane, ...], bodies: tuple[model.Body, ...], dark: Set[str]
) -> set[str]:
    """Planes that are carried by what is switched off, however far down."""
    fallen: set[str] = set()
    gone = set(dark)
    while True:
        more = {plane.id for plane in planes if plane.on in gone} - fallen
        if not more:
            return fallen
        fallen |= more
        gone |= {body.id for body in bodies if body.plane in fallen}


def _weigh(document: model.Document, units: Mapping[str, model.Subassembly]) -> None:
    """Raise a `ValueOutOfRangeError` if uses would unfold to too much, before any is unfolded."""
    weights: dict[tuple[str, int], int] = {}

    def weigh(unit_id: str, depth: int) -> int:
        unit = units.get(unit_id)
        if unit is None or depth > DEEPEST:
            # `_unfold` tells what is wrong.
            return 0
        if (unit_id, depth) not in weights:
            own = len(unit.bodies) + len(unit.joints)
            inner = sum(1 + weigh(use.subassembly, depth + 1) for use in unit.instances)
            weights[unit_id, depth] = own + inner
        return weights[unit_id, depth]

    for use in document.instances:
        count = weigh(use.subassembly, 0)
        if count > MOST_THINGS:
            raise ValueOutOfRangeError(
                f"it unfolds to {_many(count)} bodies, joints and instances.",
                where=f"instance '{use.title}'",
                remedy=f"At most {MOST_THINGS:,} are possible. Use fewer subassemblies.",
            )


def _many(count: int) -> str:
    return f"{count:,}" if count < 10**9 else f"10^{len(str(count)) - 1} or more"


def _unfold(
    use: model.Instance,
    prefix: str,
    units: Mapping[str, model.Subassembly],
    above: tuple[str, ...],
    carriers: tuple[Carrier, ...],
    out: _Unfolded,
    *,
    is_off: bool,
    plane: str,
) -> None:
    where = f"instance '{use.title}'"
    if use.subassembly not in units:
        known = ", ".join(sorted(units)) or "none"
        raise MissingNameError(
            f"there is no subassembly '{use.subassembly}'.",
            where=where,
            remedy=f"Known are: {known}.",
        )
    if len(above) > DEEPEST and use.subassembly not in above:
        raise ValueOutOfRangeError(
            f"subassemblies are nested more than {DEEPEST} deep.",
            where=where,
            remedy="Take one of them apart.",
        )
    if use.subassembly in above:
        raise ValueOutOfRangeError(
            f"subassembly '{use.subassembly}' contains itself.",
            where=where,
            remedy="Take out one of the instances.",
        )
    if use.off:
        out.off.append(use.title)
    unit = units[use.subassembly]
    name = f"{prefix}{use.id}{JOINT}"
    here = (*carriers, Carrier(use.pose, use.height, use.title))
    placed = {placement.body: placement.pose for placement in use.placements}
    settings = {setting.joint: setting.limits for setting in use.settings}
    first_body, first_joint = len(out.bodies), len(out.joints)
    for body in unit.bodies:
        inner = name + body.id
        out.bodies.append(
            body.model_copy(
                update={
                    "id": inner,
                    "name": f"{use.title}: {body.title}",
                    "fixed": False,
                    "plane": plane,
                }
            )
        )
        out.carriers[inner] = out.lifts[inner] = here
        if is_off:
            out.dark.add(inner)
    for joint in unit.joints:
        out.joints.append(
            joint.model_copy(
                update={
                    "id": name + joint.id,
                    "name": f"{use.title}: {joint.title}",
                    "first": _side(joint.first, name),
                    "second": _side(joint.second, name),
                }
            )
        )
    for connection in connections_of(unit):
        called = {"id": name + connection.id, "name": f"{use.title}: {connection.title}"}
        named = renamed(connection, lambda body: name + body, lambda joint: name + joint)
        out.connections.append(named.model_copy(update=called))
    for inner_use in unit.instances:
        off = is_off or inner_use.off
        _unfold(
            inner_use, name, units, (*above, use.subassembly), here, out, is_off=off, plane=plane
        )
    if len(out.bodies) > MOST_BODIES:
        raise ValueOutOfRangeError(
            f"its units unfold to more than {MOST_BODIES} bodies.",
            where=where,
            remedy="Use fewer subassemblies.",
        )
    # What is set from outside holds for everything inside, however deep.
    for k in range(first_body, len(out.bodies)):
        body = out.bodies[k]
        pose = placed.get(body.id.removeprefix(name))
        if pose is not None:
            out.bodies[k] = body.model_copy(update={"pose": pose})
            out.carriers[body.id] = ()
    for k in range(first_joint, len(out.joints)):
        joint = out.joints[k]
        limits = settings.get(joint.id.removeprefix(name))
        if limits is not None:
            out.joints[k] = joint.model_copy(update={"limits": limits})


def _side(side: model.Side, name: str) -> model.Side:
    return side.model_copy(update={"body": name + side.body})


def program_without(program: model.Program, gone: Set[str]) -> model.Program:
    """The program without some drivers (by id), and without the stages that this leaves empty."""
    drivers = tuple(driver for driver in program.drivers if driver.id not in gone)
    if len(drivers) == len(program.drivers):
        return program
    stages = []
    for stage in program.stages:
        moves = tuple(move for move in stage.moves if move.driver not in gone)
        if moves:
            # The step is that of the first move's driver.
            step = stage.step if moves[0] is stage.moves[0] else None
            stages.append(stage.model_copy(update={"moves": moves, "step": step}))
    return program.model_copy(update={"drivers": drivers, "stages": tuple(stages)})


def _names_any(node: model.Model, bodies: Set[str], joints: Set[str]) -> bool:
    """Whether a piece of a document is about one of some bodies or joints."""
    return not (bodies.isdisjoint(bodies_named(node)) and joints.isdisjoint(joints_named(node)))


def inner_names(document: model.Document, body_id: str) -> tuple[model.Instance, str] | None:
    """The outermost use that a flat body or joint id belongs to, and its id inside; else None."""
    head, joint, rest = body_id.partition(JOINT)
    if not joint:
        return None
    use = next((use for use in document.instances if use.id == head), None)
    return None if use is None else (use, rest)


def joint_kinds(
    document: model.Document, unit: model.Subassembly | None = None
) -> dict[str, model.JointKind]:
    """Kinds of all joints of a document or of one of its units, also of what is switched off.

    Those inside its uses are called by their flat ids; raises `KeyError` if a unit is missing.
    """
    holder = document if unit is None else unit
    kinds = {joint.id: joint.kind for joint in holder.joints}
    for use in holder.instances:
        inner = joint_kinds(document, model.next_by_id(document.subassemblies, use.subassembly))
        kinds |= {f"{use.id}{JOINT}{name}": kind for name, kind in inner.items()}
    return kinds


def all_uses(document: model.Document) -> Iterator[model.Instance]:
    """Every use in a document, also those inside units."""
    yield from document.instances
    for unit in document.subassemblies:
        yield from unit.instances
