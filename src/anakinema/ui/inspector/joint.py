"""The inspector's form of a joint: kind, sides, numbers, zero and direction, limits, driver."""

from __future__ import annotations

import numpy as np

from anakinema.document import model
from anakinema.document.dependents import Going
from anakinema.edits.base import Edit
from anakinema.edits.structure import Remove, ReverseJoint, SetJoint, can_reverse
from anakinema.edits.values import SetLimit
from anakinema.session import drive, gauges, joint_value_words, rekinded, zero_here
from anakinema.ui.fields import source_text
from anakinema.ui.inspector.form import Form
from anakinema.ui.inspector.join_panel import KINDS
from anakinema.ui.workbench import Selection


def build_joint(form: Form, joint_id: str) -> None:
    """Rows of a joint of the document."""
    bench = form.workbench

    def joint() -> model.Joint:
        return bench.session.document.joint(joint_id)

    titles = {body.id: body.title for body in bench.session.document.bodies}
    second = titles.get(joint().second.body, joint().second.body)
    first = titles.get(joint().first.body, joint().first.body)
    form.heading(joint().title, f"{KINDS[joint().kind]}: {second} on {first}")
    form.live("Present", lambda: _present(form, joint_id))
    form.live("Used, least", lambda: _used(form, joint_id, 0))
    form.live("Used, greatest", lambda: _used(form, joint_id, 1))
    form.live("Reserve", lambda: _reserve(form, joint_id))
    if joint().kind != "rigid":
        form.section("Limits")
        for which in ("least", "greatest", "rest"):
            form.quantity(
                which, f"limit_{which}",
                lambda w=which: source_text(getattr(joint().limits, w)),
                lambda text, w=which: SetLimit(joint_id, w, text if text.strip() else None),
            )  # fmt: skip
        form.quiet(
            f"Positive is anticlockwise, or along the axis, seen from {first}. Empty means no"
            " limit. Rest is kept for yielding bodies."
        )
        driven = any(d.joint == joint_id for d in bench.session.document.program.drivers)
        entries = [("joint_zero", "Zero here", lambda: _once(form, _zero(form, joint_id)))]
        if can_reverse(joint()):
            entries.append(
                ("joint_reverse", "Turn round", lambda: form.once(ReverseJoint(joint_id)))
            )
        if not driven:
            entries.append(("joint_drive", "Drive", lambda: _once(form, _drive(form, joint_id))))
        form.buttons(*entries)
    form.section("Joint")
    form.text("Name", "joint_name", lambda: joint().name or joint().title,
              lambda text: SetJoint(joint_id, "name", text))  # fmt: skip
    form.choice("Kind", "joint_kind", list(KINDS.items()), lambda: joint().kind,
                lambda kind: _kind(form, joint_id, kind))  # fmt: skip
    for side, words in (("second", second), ("first", first)):
        _place(form, joint_id, side, words)
    if joint().kind in ("rigid", "prismatic", "block_on_arc"):
        form.quantity("twist", "joint_twist", lambda: source_text(joint().twist),
                      lambda text: SetJoint(joint_id, "twist", text))  # fmt: skip
    if joint().kind in ("prismatic", "pin_in_slot"):
        form.quantity("offset", "joint_offset", lambda: source_text(joint().offset),
                      lambda text: SetJoint(joint_id, "offset", text))  # fmt: skip
    if joint().kind in model.ARC_KINDS:
        form.quantity("radius", "joint_radius", lambda: source_text(joint().radius),
                      lambda text: SetJoint(joint_id, "radius", text))  # fmt: skip
    form.quantity("rise in stack", "joint_rise", lambda: source_text(joint().rise),
                  lambda text: SetJoint(joint_id, "rise", text.strip() or None))  # fmt: skip
    form.check("switched off", "joint_off", lambda: joint().off,
               lambda on: SetJoint(joint_id, "off", on))  # fmt: skip
    form.buttons(("joint_delete", "Delete joint", lambda: _delete(form, joint_id)))


def _delete(form: Form, joint_id: str) -> None:
    form.once(Remove(Going(joints=frozenset((joint_id,))), "Delete joint"))
    form.workbench.select(Selection())


def _once(form: Form, edit: Edit | None) -> None:
    if edit is not None:
        form.once(edit)


def _zero(form: Form, joint_id: str) -> Edit | None:
    scene = form.workbench.scene
    return zero_here(scene, joint_id) if scene is not None else None


def _drive(form: Form, joint_id: str) -> Edit | None:
    scene = form.workbench.rest()
    return drive(scene, joint_id) if scene is not None else None


def _kind(form: Form, joint_id: str, kind: str) -> Edit | None:
    """Another kind: what no longer fits is named and nothing is lost."""
    scene = form.workbench.scene
    if scene is None:
        return None
    edit, misfits = rekinded(scene.resolved, joint_id, kind)
    if misfits:
        form.workbench.report(f"No longer of use: {', '.join(misfits)}. Undo brings all back.")
    return edit


def _place(form: Form, joint_id: str, side: str, title: str) -> None:
    """Which place of a body the joint is at."""
    bench = form.workbench
    document = bench.session.document

    def source() -> str:
        return str(getattr(bench.session.document.joint(joint_id), side).place)

    body = getattr(document.joint(joint_id), side).body
    found = next((b for b in document.bodies if b.id == body), None)
    if found is None:
        return
    options = [(p.id, p.id.replace("_", " ")) for p in document.part(found.part).places]

    def edit(place: str) -> Edit:
        old = getattr(bench.session.document.joint(joint_id), side)
        return SetJoint(joint_id, side, model.Side(body=old.body, place=place))

    form.choice(f"On {title}", f"joint_{side}", options, source, edit)


def _joint_index(form: Form, joint_id: str) -> int | None:
    evaluation = form.workbench.evaluation
    if evaluation is None:
        return None
    ids = [joint.id for joint in evaluation.document.joints]
    return ids.index(joint_id) if joint_id in ids else None


def _present(form: Form, joint_id: str) -> str:
    evaluation, index = form.workbench.evaluation, _joint_index(form, joint_id)
    if evaluation is None or index is None:
        return ""
    motion = evaluation.motion
    value = np.interp(form.workbench.progress, motion.progress, motion.values[:, index])
    return joint_value_words(evaluation, index, float(value))


def _used(form: Form, joint_id: str, end: int) -> str:
    evaluation, index = form.workbench.evaluation, _joint_index(form, joint_id)
    if evaluation is None or index is None:
        return ""
    gauge = next((g for g in gauges(evaluation) if g.joint == index), None)
    if gauge is None:
        return ""
    return joint_value_words(evaluation, index, gauge.high if end else gauge.low)


def _reserve(form: Form, joint_id: str) -> str:
    evaluation, index = form.workbench.evaluation, _joint_index(form, joint_id)
    if evaluation is None or index is None:
        return ""
    gauge = next((g for g in gauges(evaluation) if g.joint == index), None)
    if gauge is None or (gauge.least is None and gauge.greatest is None):
        return "no limits"
    ends = []
    if gauge.least is not None:
        ends.append(joint_value_words(evaluation, index, gauge.low - gauge.least))
    if gauge.greatest is not None:
        ends.append(joint_value_words(evaluation, index, gauge.greatest - gauge.high))
    return " and ".join(ends)
