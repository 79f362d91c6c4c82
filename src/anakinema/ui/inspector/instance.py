"""The inspector's forms of a body inside a use of a unit, and of a joint inside one."""

from __future__ import annotations

from anakinema.authoring import drive, inner_body, inner_joints, renew_unit, unit_apart, use_of
from anakinema.document import Going, model
from anakinema.edits import Edit, Remove, SetInstance, SetLimit, SetSubassembly
from anakinema.errors import AnakinemaError
from anakinema.ui.fields import source_text
from anakinema.ui.inspector.body import build_dimension
from anakinema.ui.inspector.form import Form
from anakinema.ui.inspector.live import show_use_of
from anakinema.ui.workbench import Selection


def build_use(form: Form, body_id: str) -> None:
    """Rows of the use that a body belongs to, and of the part it is made of."""
    bench = form.workbench
    use_id = use_of(body_id) or ""

    def use() -> model.Instance:
        return model.next_by_id(bench.session.document.instances, use_id)

    document = bench.session.document
    if all(u.id != use_id for u in document.instances):
        form.quiet("This instance is gone.")
        return
    unit = model.next_by_id(document.subassemblies, use().subassembly)
    instances = sum(u.subassembly == unit.id for u in document.instances)
    flat = inner_body(document, body_id)
    form.heading(
        flat.title if flat is not None else use().title,
        f"subassembly {unit.title}, {instances} instance{'s' if instances > 1 else ''}",
    )
    form.text(
        "Name of this instance",
        "use_name",
        lambda: use().name or use().title,
        lambda text: SetInstance(use_id, "name", text),
    )
    form.text(
        "Name of the subassembly",
        "unit_name",
        lambda: unit.name or unit.title,
        lambda text: SetSubassembly(unit.id, "name", text),
    )
    form.quantity(
        "height",
        "use_height",
        lambda: source_text(use().height),
        lambda text: SetInstance(use_id, "height", text.strip() or 0.0),
    )
    form.check(
        "switched off", "use_off", lambda: use().off, lambda on: SetInstance(use_id, "off", on)
    )
    if flat is not None:
        part = document.part(flat.part)
        if part.dimensions:
            form.section("Dimensions, for all instances")
        for dimension in part.dimensions:
            build_dimension(form, part.id, dimension.id)
    joints = inner_joints(document, use_id)
    if joints:
        form.section("Joints inside, of this instance")
    for joint_id, title, is_driven in joints:
        entries = [
            (f"go_{joint_id}", title, lambda j=joint_id: bench.select(Selection("joint", j)))
        ]
        if not is_driven:
            entries.append((f"drive_{joint_id}", "Drive", lambda j=joint_id: _drive(form, j)))
        form.buttons(*entries)
    if unit.origin:
        form.section("Taken from")
        form.quiet(unit.origin.rpartition("#")[0])
        form.buttons(("unit_renew", "Bring up to date", lambda: _renew(form, unit.id)))
    form.buttons(
        ("use_apart", "Take apart", lambda: _apart(form, use_id)),
        ("use_delete", "Delete", lambda: _delete(form, use_id)),
    )


def build_inner_joint(form: Form, joint_id: str) -> None:
    """Rows of a joint inside a use: limits, rest and driver are this use's own."""
    bench = form.workbench
    document = bench.session.document
    use_id = use_of(joint_id) or ""
    found = {joint: (title, driven) for joint, title, driven in inner_joints(document, use_id)}
    if joint_id not in found:
        form.quiet("This joint is gone.")
        return
    title, is_driven = found[joint_id]
    use = model.next_by_id(document.instances, use_id)
    form.heading(title, f"inside {use.title}; what is set here holds for this instance")
    show_use_of(form, joint_id)
    form.section("Limits")

    def limit(which: str) -> str:
        scene = bench.scene
        joints = scene.resolved.document.joints if scene is not None else ()
        here = next((j for j in joints if j.id == joint_id), None)
        return source_text(getattr(here.limits, which)) if here is not None else ""

    form.quantities(
        ("least", "greatest", "rest"),
        "limit",
        limit,
        lambda which, text: SetLimit(joint_id, which, text if text.strip() else None),
    )
    form.quiet("Empty means no limit. Rest is kept for yielding bodies.")
    if not is_driven:
        form.buttons(("joint_drive", "Drive", lambda: _drive(form, joint_id)))
    body = inner_body(document, use_id)
    if body is not None:
        form.buttons(
            ("joint_use", "The whole instance", lambda: bench.select(Selection("body", body.id)))
        )


def _drive(form: Form, joint_id: str) -> None:
    scene = form.workbench.drawn_scene()
    edit: Edit | None = drive(scene, joint_id) if scene is not None else None
    if edit is not None:
        form.once(edit)


def _renew(form: Form, unit_id: str) -> None:
    session = form.workbench.session
    try:
        edit = renew_unit(session.document, unit_id, session.path)
    except AnakinemaError as error:
        form.workbench.report(error)
        return
    form.once(edit)


def _apart(form: Form, use_id: str) -> None:
    scene = form.workbench.drawn_scene()
    if scene is not None:
        form.once(unit_apart(scene, use_id))
        form.workbench.select(Selection())


def _delete(form: Form, use_id: str) -> None:
    form.once(Remove(Going(bodies=frozenset((use_id,))), "Delete instance"))
    form.workbench.select(Selection())
