"""The inspector's form of a body inside a use of a unit."""

from __future__ import annotations

from anakinema.document import model
from anakinema.document.dependents import Going
from anakinema.edits.structure import Remove
from anakinema.edits.units import SetUnit, SetUse
from anakinema.edits.values import SetLimit
from anakinema.session import unit_apart, use_of
from anakinema.ui.fields import source_text
from anakinema.ui.inspector.body import build_dimension
from anakinema.ui.inspector.form import Form
from anakinema.ui.workbench import Selection


def build_use(form: Form, body_id: str) -> None:
    """Rows of the use that a body belongs to, and of the part it is made of."""
    bench = form.workbench
    use_id = use_of(body_id) or ""

    def use() -> model.UnitUse:
        return model.next_by_id(bench.session.document.uses, use_id)

    document = bench.session.document
    if all(u.id != use_id for u in document.uses):
        form.quiet("This use is gone.")
        return
    unit = model.next_by_id(document.subassemblies, use().unit)
    uses = sum(u.unit == unit.id for u in document.uses)
    inner = body_id.removeprefix(f"{use_id}__")
    body = next((b for b in unit.bodies if b.id == inner), None)
    form.heading(f"{use().title}: {body.title if body else inner}",
                 f"unit {unit.title}, used {uses} time{'s' if uses > 1 else ''}")  # fmt: skip
    form.text("Name of this use", "use_name", lambda: use().name or use().title,
              lambda text: SetUse(use_id, "name", text))  # fmt: skip
    form.text("Name of the unit", "unit_name", lambda: unit.name or unit.title,
              lambda text: SetUnit(unit.id, "name", text))  # fmt: skip
    form.quantity("height", "use_height", lambda: source_text(use().height),
                  lambda text: SetUse(use_id, "height", text.strip() or 0.0))  # fmt: skip
    form.check("switched off", "use_off", lambda: use().off,
               lambda on: SetUse(use_id, "off", on))  # fmt: skip
    if body is not None:
        part = document.part(body.part)
        if part.dimensions:
            form.section("Dimensions, for all uses")
        for dimension in part.dimensions:
            build_dimension(form, part.id, dimension.id)
    limits = {s.joint: s.limits for s in use().settings}
    if unit.joints:
        form.section("Limits of this use")
    for joint in unit.joints:
        if joint.kind == "rigid":
            continue
        for which in ("least", "greatest"):
            form.quantity(
                f"{joint.title}, {which}", f"use_{joint.id}_{which}",
                lambda j=joint, w=which: source_text(
                    getattr({s.joint: s.limits for s in use().settings}.get(j.id, j.limits), w)
                ),
                lambda text, j=joint.id, w=which: SetLimit(
                    f"{use_id}__{j}", w, text if text.strip() else None
                ),
            )  # fmt: skip
    if limits:
        form.quiet("Limits set here are this use's own.")
    form.buttons(
        ("use_apart", "Take apart", lambda: _apart(form, use_id)),
        ("use_delete", "Delete", lambda: _delete(form, use_id)),
    )


def _apart(form: Form, use_id: str) -> None:
    scene = form.workbench.rest()
    if scene is not None:
        form.once(unit_apart(scene, use_id))
        form.workbench.select(Selection())


def _delete(form: Form, use_id: str) -> None:
    form.once(Remove(Going(bodies=frozenset((use_id,))), "Delete use"))
    form.workbench.select(Selection())
