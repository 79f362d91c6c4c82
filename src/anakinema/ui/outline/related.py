"""Panel rows of what is picked to be related, of what is kept, and of two ways to keep it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget

from anakinema.authoring import (
    elements_of,
    kept_of,
    kept_state,
    place_beside,
    place_midway,
    possible,
    present_value,
)
from anakinema.document import model
from anakinema.edits import (
    AddPlace,
    AddRelation,
    OutlineKey,
    RemoveRelation,
    SetCorner,
    SetRelation,
)
from anakinema.expressions import completed
from anakinema.ui.fields import QuantityField, label
from anakinema.ui.inspector.form import Form
from anakinema.ui.outline.desk import Desk
from anakinema.units import UnitSystem

BUTTONS: dict[str, str] = {
    "tangent": "Smooth",
    "concentric": "Concentric",
    "equal": "Equal",
    "parallel": "Parallel",
    "square": "Square",
    "symmetric": "Symmetric",
    "on": "On it",
    "between": "Midway",
    "length": "Length",
    "radius": "Radius",
    "angle": "Angle",
    "distance": "Distance",
    "held": "Hold here",
}
STARTING_BEND = 0.3
STARTING_DISTANCE = "5 mm"


def build_picks(editor: Desk, form: Form, part: model.Part, key: OutlineKey) -> None:
    """What is picked, a list to pick from by keys, and what it can be made to keep."""
    canvas = editor.canvas
    form.section("Relate")
    choices = elements_of(part, key)
    words = dict(choices)
    box = QComboBox()
    box.setObjectName("outline_pick")
    box.setAccessibleName("pick something to relate")
    box.setMinimumContentsLength(8)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    for element, stated in choices:
        box.addItem(f"{stated}, picked" if element in canvas.picks else stated, element)

    def chosen() -> None:
        if box.currentData() is not None:
            canvas.pick(box.currentData(), more=True)

    button = QPushButton("Pick")
    button.setObjectName("outline_pick_it")
    button.setToolTip("Pick it, or let it go; on the paper, click with Shift")
    button.clicked.connect(chosen)
    line = QHBoxLayout()
    line.addWidget(box, 1)
    line.addWidget(button)
    form.layout.addLayout(line)
    canvas.picks = [pick for pick in canvas.picks if pick in words]
    if not canvas.picks:
        return
    picked = label(" and ".join(words[pick] for pick in canvas.picks), "strong", wrap=True)
    picked.setObjectName("outline_picked")
    form.layout.addWidget(picked)
    document = editor.workbench.session.document
    ordered = _ordered(canvas.picks)
    entries: list[tuple[str, str, Callable[[], None]]] = [
        (f"relate_{kind}", BUTTONS[kind], partial(_relate, editor, kind, ordered))
        for kind in possible(document, part.id, ordered)
    ]
    if (
        len(ordered) == 1
        and ordered[0].kind == "edge"
        and "length" in {name.removeprefix("relate_") for name, _, _ in entries}
    ):
        for index, stated in enumerate(("Level", "Upright")):
            axis = model.Element(kind="axis", index=index)
            entries.append(
                (
                    f"relate_{stated.lower()}",
                    stated,
                    partial(_relate, editor, "parallel", (*ordered, axis)),
                )
            )
        entries.append(("edge_bend", "Bend", lambda: _bend(editor, ordered[0], STARTING_BEND)))
    elif len(ordered) == 1 and ordered[0].kind == "edge":
        entries.append(("edge_straight", "Straighten", lambda: _bend(editor, ordered[0], 0.0)))
    if len(ordered) == 2 and not any(e.kind == "axis" for e in ordered):
        entries.append(
            ("place_midway", "Place midway", lambda: _place(editor, place_midway(part, *ordered)))
        )
    if len(ordered) == 1 and ordered[0].kind in ("edge", "corner", "centre"):
        entries.append(
            (
                "place_beside",
                "Place beside",
                lambda: _place(editor, place_beside(part, ordered[0], STARTING_DISTANCE)),
            )
        )
    form.buttons(*entries)


def _ordered(picks: list[model.Element]) -> tuple[model.Element, ...]:
    """Points before edges before axes, each as picked: what is on what, and about what."""
    rank = {"corner": 0, "centre": 0, "place": 0, "edge": 1, "axis": 2}
    return tuple(sorted(picks, key=lambda pick: rank[pick.kind]))


def _relate(editor: Desk, kind: str, of: tuple[model.Element, ...]) -> None:
    part, document = editor.part(), editor.workbench.session.document
    if part is None:
        return
    relation = model.Relation.model_validate({"kind": kind, "of": of})
    if kind in ("length", "radius", "angle", "distance"):
        value = present_value(document, part.id, relation.kind, of)
        relation = relation.model_copy(update={"value": value})
    index = len(part.relations)
    editor.offer(AddRelation(part.id, relation), index)
    field = editor.field(f"kept_{index}")
    if field is not None:
        field.setFocus()
        field.selectAll()


def _bend(editor: Desk, edge: model.Element, bulge: float) -> None:
    key = OutlineKey(editor.canvas.part, str(edge.slab), edge.hole)
    editor.do(SetCorner(key, edge.index, (("bulge", bulge),)))
    editor.rebuild()


def _place(editor: Desk, edit: AddPlace) -> None:
    editor.do(edit)
    editor.canvas.pick(model.Element(kind="place", place=edit.place.id))


def build_kept(editor: Desk, form: Form, part: model.Part) -> None:
    """All that the part keeps, each value to type, each to be let go."""
    document = editor.workbench.session.document
    kept = kept_of(document, part.id)
    if not kept:
        return
    form.section("Kept")
    for k, entry in enumerate(kept):
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 2, 0, 2)
        line.setSpacing(6)
        stated = f"{entry.words} (said already)" if entry.repeats else entry.words
        line.addWidget(label(stated, "quiet", wrap=True), 1)
        if entry.value is not None:
            line.addWidget(_value_field(editor, k, entry.value))
        drop = QPushButton("×")
        drop.setObjectName(f"kept_drop_{k}")
        drop.setAccessibleName(f"keep no longer: {entry.words}")
        drop.setToolTip("Keep no longer")
        drop.setProperty("flat", True)
        drop.setFixedWidth(24)
        drop.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        drop.clicked.connect(lambda _=False, n=k: editor.do(RemoveRelation(part.id, n)))
        line.addWidget(drop)
        form.layout.addWidget(holder)
    state = kept_state(document, part.id)
    if state is not None:
        free = state.freedoms
        words = (
            "Everything related is set."
            if not free
            else (f"{free} number{'s' if free > 1 else ''} of what is related can still be chosen.")
        )
        line_of_state = label(words, "quiet", wrap=True)
        line_of_state.setObjectName("kept_state")
        form.layout.addWidget(line_of_state)


def _value_field(editor: Desk, index: int, value: str) -> QuantityField:
    field = QuantityField(value, f"kept_{index}")
    field.setFixedWidth(92)

    def finished() -> None:
        part = editor.part()
        if part is None or index >= len(part.relations):
            return
        units = editor.workbench.session.document.units
        typed = completed(field.whole, value, UnitSystem(units.length, units.angle))
        if typed != str(part.relations[index].value):
            editor.offer(SetRelation(part.id, index, typed), index)

    field.finished.connect(finished)
    field.cancelled.connect(lambda: field.show_source(value))
    return field


def build_ways(editor: Desk, form: Form) -> None:
    """Two or more ways to keep all that is kept: which is meant?"""
    form.section("Which way?")
    count = len(editor.ways)
    form.quiet(
        "There are two ways to keep this; both are drawn."
        if count == 2
        else f"There are {count} ways to keep this; all are drawn."
        if count > 2
        else "This folds the outline; it is drawn, and not done."
    )
    entries = [
        (f"way_{'abc'[k]}", f"Take {'ABC'[k]}", lambda w=way: editor.take(w))
        for k, way in enumerate(editor.ways)
        if way.edit is not None
    ]

    def leave() -> None:
        editor.leave()
        editor.rebuild()

    form.buttons(*entries, ("way_none", "Leave it", leave))
