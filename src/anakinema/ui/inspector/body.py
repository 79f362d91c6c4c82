"""The inspector's form of a body: name, part, dimensions, place, stack, material, joints."""

from __future__ import annotations

from functools import partial
from typing import get_args

from anakinema.authoring import DRESSES, dressing, is_stick, moved_to_plane
from anakinema.document import model
from anakinema.edits import (
    Edit,
    SetBody,
    SetDimension,
    SetParameter,
    SetPart,
    SetPose,
    SplitPart,
    fresh_id,
)
from anakinema.parts import MATERIALS, material_named, recipe
from anakinema.ui.fields import NUMBER, source_text
from anakinema.ui.inspector.form import Form
from anakinema.ui.workbench import Selection


def build_body(form: Form, body_id: str) -> None:
    """Rows of a body that stands in the document itself."""
    bench = form.workbench

    def body() -> model.Body:
        return bench.session.document.body(body_id)

    def part() -> model.Part:
        return bench.session.document.part(body().part)

    document = bench.session.document
    instances = sum(other.part == body().part for other in document.bodies)
    shared = f", used {instances} times" if instances > 1 else ""
    form.heading(body().title, f"part {part().title}{shared}")
    form.text(
        "Name",
        "body_name",
        lambda: body().name or body().title,
        lambda text: SetBody(body_id, "name", text),
    )
    form.check(
        "fixed", "body_fixed", lambda: body().fixed, lambda on: SetBody(body_id, "fixed", on)
    )
    form.check(
        "switched off", "body_off", lambda: body().off, lambda on: SetBody(body_id, "off", on)
    )
    form.buttons(
        ("body_hold", "Hold", lambda: bench.hold([body_id])),
        ("body_hide", "Hide", lambda: bench.hide([body_id])),
    )
    if is_stick(part()):
        form.section("Dress this bare length as")
        for k in range(0, len(DRESSES), 2):
            form.buttons(
                *(
                    (
                        f"dress_{d.recipe}",
                        recipe(d.recipe).title,
                        lambda key=d.recipe: _dress(form, body_id, key),
                    )
                    for d in DRESSES[k : k + 2]
                )
            )
    if part().dimensions:
        form.section("Dimensions")
    for dimension in part().dimensions:
        build_dimension(form, body().part, dimension.id)
    parameters = document.parameters
    if parameters:
        form.section("Parameters")
    for parameter in parameters:
        build_parameter(form, parameter)
    form.section("Start pose and stack")
    form.quantities(
        ("x", "y", "angle"),
        "pose",
        lambda axis: source_text(getattr(body().pose, axis)),
        lambda axis, text: SetPose(body_id, axis, text),
    )
    form.quantity(
        "height",
        "height",
        lambda: source_text(body().height),
        lambda text: SetBody(body_id, "height", text.strip() or None),
    )
    if len(document.planes) > 1:
        form.choice(
            "Plane",
            "body_plane",
            [(plane.id, plane.title) for plane in document.planes],
            lambda: body().plane,
            lambda plane: _to_plane(form, body_id, plane),
        )
    form.section("Part")
    form.text(
        "Part name",
        "part_name",
        lambda: part().name or part().title,
        lambda text: SetPart(body().part, "name", text),
    )
    colours = [(colour, colour) for colour in get_args(model.Colour)]
    form.choice(
        "Colour",
        "part_colour",
        colours,
        lambda: part().colour,
        lambda colour: SetPart(body().part, "colour", colour),
    )
    _material(form, body_id)
    form.text(
        "Note", "part_note", lambda: part().note, lambda text: SetPart(body().part, "note", text)
    )
    if instances > 1:
        new = fresh_id(body_id, [p.id for p in document.parts])
        form.buttons(
            ("split_part", "Make this one its own", lambda: form.once(SplitPart(body_id, new)))
        )
    options = [(p.id, p.title) for p in document.parts]
    if len(options) > 1:
        form.choice(
            "Made of",
            "body_part",
            options,
            lambda: body().part,
            lambda chosen: _other_part(form, body_id, chosen),
        )
    joints = [j for j in document.joints if body_id in (j.first.body, j.second.body)]
    if joints:
        form.section("Joints")
    for joint in joints:
        go = partial(bench.select, Selection("joint", joint.id))
        form.buttons((f"go_{joint.id}", joint.title, go))


def _to_plane(form: Form, body_id: str, plane: str) -> Edit | None:
    """The body on another plane, with all that is joined to it."""
    scene = form.workbench.drawn_scene()
    return None if scene is None else moved_to_plane(scene.resolved, body_id, plane)


def build_dimension(form: Form, part_id: str, name: str) -> None:
    """A dimension of a part; all its uses follow."""

    def source() -> str:
        dimensions = form.workbench.session.document.part(part_id).dimensions
        return source_text(model.next_by_id(dimensions, name).value)

    form.quantity(
        name.replace("_", " "),
        f"dimension_{part_id}_{name}",
        source,
        lambda text: SetDimension(part_id, name, text),
    ).setProperty(NUMBER, f"{part_id}.{name}")


def _dress(form: Form, body_id: str, recipe_id: str) -> None:
    scene = form.workbench.drawn_scene()
    if scene is not None:
        form.once(dressing(scene, body_id, recipe_id))


def build_parameter(form: Form, parameter: model.Parameter) -> None:
    """A named quantity of the document."""
    name = parameter.id

    def source() -> str:
        parameters = form.workbench.session.document.parameters
        return source_text(model.next_by_id(parameters, name).value)

    form.quantity(
        name.replace("_", " "),
        f"parameter_{name}",
        source,
        lambda text: SetParameter(name, text),
        parameter.note,
    ).setProperty(NUMBER, f".{name}")


def _material(form: Form, body_id: str) -> None:
    document = form.workbench.session.document

    def material() -> str:
        found = form.workbench.session.document.part(
            form.workbench.session.document.body(body_id).part
        ).material
        return found.name if found else ""

    part_id = document.body(body_id).part
    names = ["", *MATERIALS]
    if material() not in names:
        names.append(material())

    def chosen(name: str) -> Edit:
        return SetPart(part_id, "material", material_named(name))

    options = [(name, name or "not stated") for name in names]
    form.choice("Material", "part_material", options, material, chosen)

    def density() -> str:
        found = form.workbench.session.document.part(part_id).material
        return f"{found.density:g}" if found else ""

    form.text("Density, kg/m³", "part_density", density, lambda text: _dense(form, part_id, text))


def _dense(form: Form, part_id: str, text: str) -> Edit:
    """Another density: of the material stated, or of one that has no name yet."""
    old = form.workbench.session.document.part(part_id).material
    if not text.strip():
        return SetPart(part_id, "material", None)
    made: model.Material | None
    try:
        made = model.Material(name=old.name if old else "other", density=float(text))
    except ValueError:
        form.workbench.report(
            f"Density '{text}' is not a number above 0 and below 30000 kg/m³; it stays as it was."
        )
        made = old
    return SetPart(part_id, "material", made)


def _other_part(form: Form, body_id: str, chosen: str) -> Edit | None:
    """Another definition under a body; joints whose place it has not are named instead."""
    document = form.workbench.session.document
    if document.body(body_id).part == chosen:
        return None
    places = {place.id for place in document.part(chosen).places}
    lost = [
        joint.title
        for joint in document.joints
        for side in (joint.first, joint.second)
        if side.body == body_id and side.place not in places
    ]
    if lost:
        form.workbench.report(
            f"{document.part(chosen).title} has no place for {', '.join(lost)}."
            " Delete or move these joints first, or name its places like those it replaces."
        )
        return None
    return SetBody(body_id, "part", chosen)
