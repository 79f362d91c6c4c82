"""The inspector's form of a joint: kind, sides, numbers, zero and direction, limits, driver."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from anakinema.authoring import (
    Bound,
    PlacedSnap,
    curve_names,
    drive,
    fastening,
    limit_edit,
    pin_stack,
    placed_snap_like,
    put_hardware,
    rejoin,
    rekinded,
    shown_value,
    value_at,
    yielding,
    zero_here,
)
from anakinema.document import KINDS, Going, model, spec_of
from anakinema.edits import (
    Edit,
    Remove,
    RemoveHardware,
    ReverseJoint,
    SetJoint,
    SetLimit,
    can_reverse,
)
from anakinema.errors import AnakinemaError
from anakinema.findings import Evaluation, guide_words, standing_words
from anakinema.ui.fields import choice_box, fill_choice, label, row, source_text
from anakinema.ui.inspector.form import FIELD, Form
from anakinema.ui.inspector.live import show_use_of
from anakinema.ui.inspector.snap_box import fill_snaps, snap_box
from anakinema.ui.workbench import Selection


def build_joint(form: Form, joint_id: str) -> None:
    """Rows of a joint of the document."""
    bench = form.workbench

    def joint() -> model.Joint:
        return bench.session.document.joint(joint_id)

    # What is inside an instance has its titles in the scene only.
    scene = bench.scene
    bodies = scene.resolved.document.bodies if scene is not None else ()
    titles = {body.id: body.title for body in (*bodies, *bench.session.document.bodies)}
    second = titles.get(joint().second.body, joint().second.body)
    first = titles.get(joint().first.body, joint().first.body)
    form.heading(joint().title, f"{spec_of(joint().kind).words}: {second} on {first}")
    show_use_of(form, joint_id)
    spec = spec_of(joint().kind)
    if spec.moves:
        form.section("Limits")
        form.quantities(
            ("least", "greatest", "rest"),
            "limit",
            lambda which: source_text(getattr(joint().limits, which)),
            lambda which, text: SetLimit(joint_id, which, text if text.strip() else None),
        )
        form.quiet(
            f"Positive is anticlockwise, or along the axis, seen from {first}. Empty means no"
            " limit. A joint that can be pushed returns to its rest when nothing pushes it."
        )
        form.buttons(
            *(
                (
                    f"{which}_here",
                    f"{which.capitalize()} here",
                    lambda w=which: _once(form, _limit_here(form, joint_id, w)),
                )
                for which in ("least", "greatest", "rest")
            )
        )
        form.buttons(
            *(
                (
                    f"{which}_touch",
                    f"{which.capitalize()} where it touches",
                    lambda w=which: form.workbench.ask_touch(joint_id, w),
                )
                for which in ("least", "greatest")
            )
        )
        stated = label("", "quiet", wrap=True)
        stated.setObjectName("touch_words")
        bench.touch_stated.connect(stated.setText)
        form.layout.addWidget(stated)
        if spec.is_bounded:
            _live_words(form, "joint_guide", joint_id, guide_words)
        if spec.is_guided:
            form.check(
                "may leave its guide",
                "joint_may_leave",
                lambda: joint().may_leave,
                lambda on: SetJoint(joint_id, "may_leave", on),
            )
        form.choice(
            "when pushed",
            "joint_yields",
            list(RETURNS.items()),
            lambda: joint().yields or "",
            lambda how: _yielding(form, joint_id, how),
        )
        _live_words(
            form,
            "joint_standing",
            joint_id,
            lambda evaluation, k: standing_words(evaluation, k, bench.progress),
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
    form.text(
        "Name",
        "joint_name",
        lambda: joint().name or joint().title,
        lambda text: SetJoint(joint_id, "name", text),
    )
    kinds = [
        (kind, each.words) for kind, each in KINDS.items() if each.joins or kind == joint().kind
    ]
    form.choice(
        "Kind", "joint_kind", kinds, lambda: joint().kind, lambda kind: _kind(form, joint_id, kind)
    )
    for side in ("second", "first"):
        _side(form, joint_id, side)
    if spec.has_curve and bench.scene is not None:
        names = curve_names(bench.scene, joint().first.body)
        form.choice(
            "curve",
            "joint_curve",
            names,
            lambda: joint().curve or "",
            lambda name: SetJoint(joint_id, "curve", name),
        )
    if spec.has_curve and spec.has_offset:
        form.quiet("A round of radius r outside a closed curve is a pin set off by −r.")
    form.quantities(
        spec.stated,
        "joint",
        lambda name: source_text(getattr(joint(), name)),
        lambda name, text: SetJoint(joint_id, name, text),
    )
    if spec.turns_over:
        form.buttons(("joint_flip", "Flip", lambda: _rejoin(form, joint_id, "flip", None)))
    form.quantity(
        "rise in stack",
        "joint_rise",
        lambda: source_text(joint().rise),
        lambda text: SetJoint(joint_id, "rise", text.strip() or None),
    )
    if spec.is_pin:
        _pin_section(form, joint_id)
    form.check(
        "switched off", "joint_off", lambda: joint().off, lambda on: SetJoint(joint_id, "off", on)
    )
    form.buttons(("joint_delete", "Delete joint", lambda: _delete(form, joint_id)))


def _pin_section(form: Form, joint_id: str) -> None:
    """What the pin passes through, a fastener for it, and what is wrong with its stack."""
    form.section("Pin and fasteners")
    lines, faults = label("", "quiet", wrap=True), label("", "warn", wrap=True)
    lines.setObjectName("pin_lines")
    faults.setObjectName("pin_faults")
    for widget in (lines, faults):
        form.layout.addWidget(widget)

    def show() -> None:
        scene = form.workbench.scene
        stack = None if scene is None else pin_stack(scene.resolved, scene.poses, joint_id)
        if scene is None or stack is None:
            lines.setText("")
            faults.setText("")
            return
        found = fastening(scene.resolved, stack, held())
        lines.setText("\n".join(found.lines) or "nothing solid lies on its axis")
        faults.setText("\n".join(found.faults))
        faults.setVisible(bool(found.faults))

    def held() -> model.Hardware | None:
        known = form.workbench.session.document.hardware
        return next((each for each in known if each.joint == joint_id), None)

    def put() -> Edit | None:
        scene = form.workbench.drawn_scene()
        if scene is None:
            return None
        return put_hardware(
            scene.resolved,
            scene.poses,
            joint_id,
            head.currentData(),
            int(washers.currentData()),
            below=side.currentData() == "below",
        )

    own = held()
    head = choice_box("pin_head", "head of the screw")
    names = (
        ("cap", "cap"),
        ("hexagon", "hexagon"),
        ("button", "button"),
        ("countersunk", "countersunk"),
    )
    fill_choice(head, names, [each for each, _ in names].index(own.head) if own else 0)
    washers = choice_box("pin_washers", "washers")
    fill_choice(washers, (("0", "none"), ("1", "one"), ("2", "two")), own.washers if own else 2)
    side = choice_box("pin_side", "side of the head")
    sides = (("above", "above"), ("below", "below"))
    fill_choice(side, sides, int(own.below) if own else 0)
    for words, box in (("Head", head), ("Washers", washers), ("Head lies", side)):
        form.layout.addWidget(row(words, box, width=FIELD))

    def remove() -> Edit | None:
        own = held()
        if own is None:
            form.workbench.report("There is no hardware on this pin.")
        return None if own is None else RemoveHardware(own.id)

    form.buttons(
        ("pin_add", "Add the hardware", lambda: form.once(put)),
        ("pin_remove", "Take it off", lambda: form.once(remove)),
    )
    show()
    form.on_live(show)
    form.on_refresh(show)


def _live_words(
    form: Form, name: str, joint_id: str, words: Callable[[Evaluation, int], str]
) -> None:
    """A line about the joint in the motion on show, hidden where there is nothing to say."""
    line = label("", "quiet", wrap=True)
    line.setObjectName(name)

    def show() -> None:
        evaluation = form.workbench.evaluation
        ids = [j.id for j in evaluation.document.joints] if evaluation is not None else []
        stated = ""
        if evaluation is not None and joint_id in ids:
            stated = words(evaluation, ids.index(joint_id))
        line.setText(stated)
        line.setVisible(bool(stated))

    show()
    form.on_live(show)
    form.layout.addWidget(line)


RETURNS = {
    "": "no",
    "spring": "a spring brings it back",
    "gravity": "its weight brings it back",
    "friction": "stays where it is pushed",
}


def _yielding(form: Form, joint_id: str, how: str) -> Edit | None:
    """Whether the joint gives way; at its first it rests as it stands on show."""
    evaluation = form.workbench.evaluation
    if evaluation is None or all(j.id != joint_id for j in evaluation.document.joints):
        return None
    returns = cast("model.Yielding | None", how or None)
    return yielding(evaluation, joint_id, returns, form.workbench.progress)


def _delete(form: Form, joint_id: str) -> None:
    form.once(Remove(Going(joints=frozenset((joint_id,))), "Delete joint"))
    form.workbench.select(Selection())


def _once(form: Form, edit: Edit | None) -> None:
    if edit is not None:
        form.once(edit)


def _zero(form: Form, joint_id: str) -> Edit | None:
    scene = form.workbench.scene
    return zero_here(scene, joint_id) if scene is not None else None


def _limit_here(form: Form, joint_id: str, which: Bound) -> Edit | None:
    """The limit at the pose on show."""
    bench = form.workbench
    evaluation = bench.evaluation
    joints = [j.id for j in evaluation.document.joints] if evaluation is not None else []
    if evaluation is None or joint_id not in joints:
        return None
    joint = joints.index(joint_id)
    value = value_at(evaluation, joint, bench.progress)
    if bench.trial is not None and len(bench.trial) == len(evaluation.resolved.poses):
        value = shown_value(evaluation, joint, bench.trial, value)
    return limit_edit(evaluation, joint, which, value)


def _drive(form: Form, joint_id: str) -> Edit | None:
    scene = form.workbench.drawn_scene()
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


def _side(form: Form, joint_id: str, side: str) -> None:
    """Where the joint is on one of its two bodies: any place of any body but the other one."""
    bench = form.workbench
    box = snap_box(f"joint_{side}", f"{side} place")

    def fill() -> None:
        scene = bench.scene
        joint = next((j for j in bench.session.document.joints if j.id == joint_id), None)
        if scene is None or joint is None:
            return
        own, other = (joint.first, joint.second) if side == "first" else (joint.second, joint.first)
        fill_snaps(box, bench, (own.body, own.place), "", without=other.body)

    def chosen() -> None:
        snap, scene = box.currentData(), bench.drawn_scene()
        if snap is not None and scene is not None:
            _rejoin(form, joint_id, side, placed_snap_like(scene, scene.poses, snap))
        fill()

    fill()
    box.activated.connect(lambda _: chosen())
    form.on_refresh(fill)
    form.layout.addWidget(row("On" if side == "first" else "Comes with", box, width=FIELD))


def _rejoin(form: Form, joint_id: str, side: str, snap: PlacedSnap | None) -> None:
    scene = form.workbench.drawn_scene()
    if scene is None:
        return
    try:
        edit, misfits = rejoin(scene, joint_id, side, snap)
    except AnakinemaError as error:
        form.workbench.report(error)
        return
    form.once(edit)
    if misfits:
        form.workbench.report(f"No longer fits: {', '.join(misfits)}. Undo brings all back.")
