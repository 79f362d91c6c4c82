"""Couple two joints: sizes taken from the wheels, teeth turned to mesh, distance stated."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Sequence
from dataclasses import dataclass

from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.coupling_kinds import Sizes, coupled_by, coupling_spec
from anakinema.document.couplings import common_carrier, wheels_of
from anakinema.document.flatten import JOINT
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.structure import Add, SetPoses
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.gears import Wheel, centre_distance
from anakinema.geometry.poses import turned_about
from anakinema.mechanism.compile import compile_mechanism
from anakinema.mechanism.frames import frames
from anakinema.units import ANGLE, LENGTH, NUMBER

Source = float | str
_Axes = tuple[Floats, Floats, float]
NEAR = 1e-3
"""mm that axes may stand off the distance that their wheels ask for."""


@dataclass(frozen=True, slots=True, eq=False)
class CouplingDraft:
    """What coupling comes to: the edit, and what is to be said of it."""

    edit: Edit
    coupling: model.Coupling
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Toothing:
    """A toothed outline of a body: where it is on its part, and its numbers."""

    slab: str
    hole: str | None
    wheel: Wheel | None
    teeth: float
    module: float
    turned: float

    @property
    def piece(self) -> model.OutlinePiece:
        return model.OutlinePiece(slab=self.slab, hole=self.hole)


def coupling_kinds(resolved: Resolved, first: str, second: str) -> tuple[model.CouplingKind, ...]:
    """Kinds of coupling that two joints can have, the likeliest first."""
    one, two = (resolved.document.joint(name) for name in (first, second))
    if one.id == two.id or not (spec_of(one.kind).moves and spec_of(two.kind).moves):
        return ()
    if one.kind == two.kind == "revolute":
        toothed = [_toothing(resolved, wheel) for wheel in _wheels(resolved, first, second)]
        in_a_ring = toothed[1] is not None and toothed[1].hole is not None

        def rank(kind: model.CouplingKind) -> tuple[bool, bool, bool]:
            spec = coupling_spec(kind)
            return not spec.has_carrier, spec.meshes != all(toothed), spec.ring != in_a_ring

        return tuple(sorted(coupled_by(one.kind, two.kind), key=rank))
    return coupled_by(one.kind, two.kind)


def likely_sizes(
    resolved: Resolved, kind: model.CouplingKind, first: str, second: str
) -> tuple[Source, Source | None]:
    """Sizes to begin with: those of the wheels on the joints, as expressions of their parts."""
    document = resolved.document
    joints = [document.joint(name) for name in (first, second)]
    spec = coupling_spec(kind)
    if spec.sizes is Sizes.WAYS:
        sizes = ["360 deg" if spec_of(joint.kind).is_angular else "10 mm" for joint in joints]
        return sizes[0], sizes[1]
    if spec.sizes is Sizes.ANGLE:
        return _shaft_angle(resolved, joints), None
    out: list[Source] = []
    for wheel in _wheels(resolved, first, second)[: 2 if spec.has_second_size else 1]:
        part = document.part(document.body(wheel).part)
        names = {d.id for d in part.dimensions}
        if spec.sizes is Sizes.TEETH:
            out.append(f"{part.id}.teeth" if "teeth" in names else 20.0)
        elif {"module", "teeth"} <= names:
            out.append(f"{part.id}.module*{part.id}.teeth/2")
        elif "diameter" in names:
            out.append(f"{part.id}.diameter/2")
        else:
            out.append("20 mm")
    return out[0], out[1] if len(out) > 1 else None


def _shaft_angle(resolved: Resolved, joints: Sequence[model.Joint]) -> Source:
    """The angle between the shafts of two joints: that of their planes, else one to begin with."""
    ids = [body.id for body in resolved.document.bodies]
    planes = resolved.planes
    frames = planes.frames(resolved.poses, resolved.heights)
    one, two = (frames[planes.of[ids.index(joint.first.body)]][:, 2] for joint in joints)
    angle = math.acos(min(abs(float(one @ two)), 1.0))
    return "30 deg" if angle < 1e-6 else f"{round(math.degrees(angle), 6):g} deg"


def coupled_with(
    resolved: Resolved,
    poses: Floats,
    kind: model.CouplingKind,
    first: str,
    second: str,
    sizes: tuple[Source, Source | None],
    carrier: str | None = None,
) -> CouplingDraft:
    """The edit that couples two joints; wheels with teeth are turned so that they mesh.

    Raises an `AnakinemaError` if they cannot be coupled so.
    """
    document = resolved.document
    one, two = document.joint(first), document.joint(second)
    if any({c.first, c.second} == {first, second} for c in document.couplings):
        raise ValueOutOfRangeError(
            "they are coupled already.",
            where=f"'{one.title}' and '{two.title}'",
            remedy="Change the sizes of that coupling, or delete it.",
        )
    shared = common_carrier(document.bodies, one, two)
    if carrier is None and coupling_spec(kind).has_carrier and shared is None:
        carrier = _carrier(resolved, one, two)
    wheels = _wheels(resolved, first, second, carrier)
    toothed = [_toothing(resolved, wheel) for wheel in wheels]
    meshes = coupling_spec(kind).meshes and all(toothed)
    coupling = model.Coupling(
        id=fresh_id(
            f"{first}_{second}".replace(JOINT, "_"), [c.id for c in resolved.source.couplings]
        ),
        kind=kind,
        name=f"{one.title} with {two.title}"[:120],
        first=first,
        second=second,
        first_size=sizes[0],
        second_size=sizes[1],
        carrier=carrier,
        first_pieces=(toothed[0].piece,) if meshes and toothed[0] else (),
        second_pieces=(toothed[1].piece,) if meshes and toothed[1] else (),
    )
    added = Add("Couple", couplings=(coupling,))
    compile_mechanism(resolve(added.apply(resolved.source)))
    edits: list[Edit] = [added]
    axes = _axes(resolved, poses, one, two, wheels[1])
    words = _stated(resolved, kind, one, two, axes, toothed)
    turn = _meshing_turn(resolved, poses, kind, wheels, axes, toothed)
    if turn is not None and abs(turn) > 1e-12:
        index = [b.id for b in document.bodies].index(wheels[1])
        px, py = axes[1].tolist()
        moved = (*turned_about((px, py), poses[index], turn), float(poses[index, 2]) + turn)
        edits.append(SetPoses(((wheels[1], *moved),), "Mesh"))
    label = f"Couple {one.title} with {two.title}"
    return CouplingDraft(Together(label, tuple(edits)), coupling, words)


def _wheels(
    resolved: Resolved, first: str, second: str, carrier: str | None = None
) -> tuple[str, str]:
    """The bodies that coupling two joints would move together."""
    document = resolved.document
    one, two = document.joint(first), document.joint(second)
    if carrier is None and common_carrier(document.bodies, one, two) is None:
        with contextlib.suppress(ValueOutOfRangeError):
            carrier = _carrier(resolved, one, two)
    draft = model.Coupling(
        id="draft", kind="ratio", first=first, second=second, first_size=1, carrier=carrier
    )
    return wheels_of(document.bodies, document.joints, draft)


def _toothing(resolved: Resolved, body: str) -> _Toothing | None:
    """The toothed outline of a body, None if it has none."""
    part = resolved.parts[resolved.document.body(body).part].source
    for slab in part.slabs:
        for hole, shape in ((None, slab.outline), *((h.id, h.outline) for h in slab.holes)):
            if not isinstance(shape, (model.ToothedWheel, model.ToothedRack)):
                continue
            teeth = resolved.number(part, shape.teeth, NUMBER)
            module = resolved.number(part, shape.module, LENGTH)
            turned = resolved.number(part, shape.turned, ANGLE)
            wheel = None
            if isinstance(shape, model.ToothedWheel):
                wheel = Wheel(
                    module,
                    round(teeth),
                    resolved.number(part, shape.pressure_angle, ANGLE),
                    resolved.number(part, shape.shift, NUMBER),
                    resolved.number(part, shape.backlash, LENGTH),
                    hole is not None,
                )
            return _Toothing(slab.id, hole, wheel, teeth, module, turned)
    return None


def _carrier(resolved: Resolved, one: model.Joint, two: model.Joint) -> str:
    """Which body carries both wheels: the one that a wheel hangs on and that turns about the
    other wheel's axis; raises `ValueOutOfRangeError` if neither does."""
    document = resolved.document
    for wheel, other in ((two, one), (one, two)):
        others = {other.first.body, other.second.body}
        for body in (wheel.first.body, wheel.second.body):
            for joint in document.joints:
                sides = {joint.first.body, joint.second.body}
                if joint.kind == "revolute" and body in sides and others & (sides - {body}):
                    return body
    raise ValueOutOfRangeError(
        "its two joints hang on bodies that no pin connects.",
        where=f"coupling of '{one.title}' and '{two.title}'",
        remedy="Name the body that carries both wheels.",
    )


def _axes(
    resolved: Resolved, poses: Floats, one: model.Joint, two: model.Joint, mate: str
) -> _Axes:
    """Where both joints are (mm), the second on the body ``mate``, and the direction of the
    second's slide or place (rad)."""
    mechanism = compile_mechanism(resolved)
    at = frames(mechanism.table, poses)
    ids = [j.id for j in resolved.document.joints]
    a, b = ids.index(one.id), ids.index(two.id)
    first = poses[mechanism.table.first[a], :2] + at.first_arm[a]
    arm = at.second_arm[b] if two.second.body == mate else at.first_arm[b]
    second = poses[[body.id for body in resolved.document.bodies].index(mate), :2] + arm
    return first, second, math.atan2(float(at.axis[b, 1]), float(at.axis[b, 0]))


def _stated(
    resolved: Resolved,
    kind: model.CouplingKind,
    one: model.Joint,
    two: model.Joint,
    axes: _Axes,
    toothed: list[_Toothing | None],
) -> tuple[str, ...]:
    """What the designer should know: modules that differ, axes at the wrong distance, undercut."""
    units, lines = resolved.units, []
    a, b = toothed
    if a is None or b is None or not coupling_spec(kind).meshes:
        return ()
    if abs(a.module - b.module) > 1e-9:
        lines.append(
            f"Module {units.format(a.module, LENGTH)} does not mesh with"
            f" {units.format(b.module, LENGTH)}."
        )
    first, second, axis = axes
    apart = math.dist(first, second)
    if a.wheel is not None and b.wheel is not None:
        wanted = (
            abs(b.wheel.pitch_radius - a.wheel.pitch_radius)
            if coupling_spec(kind).ring
            else centre_distance(a.wheel, b.wheel)
        )
        if abs(apart - wanted) > NEAR:
            lines.append(
                f"The axes stand {units.format(apart, LENGTH)} apart; these wheels mesh at"
                f" {units.format(wanted, LENGTH)}."
            )
    elif a.wheel is not None:
        dx, dy = (second - first).tolist()
        away = abs(math.cos(axis) * dy - math.sin(axis) * dx)
        wanted = a.wheel.pitch_radius + a.wheel.shift * a.module
        if abs(away - wanted) > NEAR:
            lines.append(
                f"The pitch line runs {units.format(away, LENGTH)} off the axis; this wheel meshes"
                f" at {units.format(wanted, LENGTH)}."
            )
    lines += [
        f"{joint.title}: {each.wheel.teeth} teeth are undercut; 17, or profile shift, avoid it."
        for joint, each in ((one, a), (two, b))
        if each.wheel is not None and each.wheel.is_undercut
    ]
    return tuple(lines)


def _meshing_turn(
    resolved: Resolved,
    poses: Floats,
    kind: model.CouplingKind,
    wheels: tuple[str, str],
    axes: _Axes,
    toothed: list[_Toothing | None],
) -> float | None:
    """How far (rad) the second wheel must turn for a space of it to face a tooth of the first.

    With u the place of a wheel on the line of centres counted in its own teeth, wheels mesh when
    u1 + u2 is a half, a wheel in a ring when u1 - u2 is one (mod 1). None where nothing turns.
    """
    a, b = toothed
    spec = coupling_spec(kind)
    if not spec.has_second_size or a is None or b is None:
        return None
    if a.wheel is None or b.wheel is None:
        return None
    ids = [body.id for body in resolved.document.bodies]
    first, second, _ = axes
    line = math.atan2(float(second[1] - first[1]), float(second[0] - first[0]))
    angles = [float(poses[ids.index(wheel), 2]) for wheel in wheels]
    towards = [line, line + math.pi]
    if spec.ring:
        # Seen from the ring, the pinion lies the other way; both face the same side.
        line = math.atan2(float(first[1] - second[1]), float(first[0] - second[0]))
        towards = [line, line]
    places = [
        (towards[k] - angles[k] - each.turned) * each.teeth / (2 * math.pi)
        for k, each in enumerate((a, b))
    ]
    pitch = 2 * math.pi / b.teeth
    if spec.ring:
        # The ring's opening is drawn with a space along ``turned``: tooth faces space at 0.
        off = places[0] - places[1]
        return -(off - round(off)) * pitch
    off = places[0] + places[1] - 0.5
    return (off - round(off)) * pitch


@dataclass(frozen=True, slots=True)
class CouplingOffer:
    """A kind of coupling that two joints can have, and sizes to begin with."""

    kind: model.CouplingKind
    first_size: Source
    second_size: Source | None


def couplable(scene: Scene) -> tuple[tuple[str, str], ...]:
    """(id, title) of all joints that a coupling can take."""
    joints = scene.resolved.document.joints
    return tuple((joint.id, joint.title) for joint in joints if spec_of(joint.kind).moves)


def coupling_offers(scene: Scene, first: str, second: str) -> tuple[CouplingOffer, ...]:
    """What two joints can be coupled by, the likeliest first."""
    return tuple(
        CouplingOffer(kind, *likely_sizes(scene.resolved, kind, first, second))
        for kind in coupling_kinds(scene.resolved, first, second)
    )


def size_words(document: model.Document, coupling: model.Coupling) -> tuple[str, ...]:
    """What the sizes of a coupling of a flat document are called, one or two."""
    first, second = (document.joint(each).title for each in (coupling.first, coupling.second))
    sizes = coupling_spec(coupling.kind).sizes
    if sizes is Sizes.RIM:
        return (f"{sizes.value} of {first}",)
    if sizes is Sizes.ANGLE:
        return (sizes.value,)
    if sizes is Sizes.WAYS:
        return f"while {first} moves", f"{second} moves"
    return f"{sizes.value} of {first}", f"{sizes.value} of {second}"


def couple(
    scene: Scene,
    kind: model.CouplingKind,
    first: str,
    second: str,
    sizes: tuple[Source, Source | None],
) -> CouplingDraft:
    """The edit that couples two joints, and what is to be said of it.

    Raises an `AnakinemaError` if they cannot be coupled so.
    """
    return coupled_with(scene.resolved, scene.poses, kind, first, second, sizes)
