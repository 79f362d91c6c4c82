"""Panel rows that add to an outline, combine outlines, move the whole part, and take sizes."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QWidget,
)

from anakinema.authoring import (
    arc_slot,
    curved_slot,
    line_arc_slot,
    new_slab,
    outline_keys,
    round_hole,
    sizes_of,
    slot_hole,
)
from anakinema.document import model
from anakinema.edits import AddHole, OutlineKey
from anakinema.ui.fields import row
from anakinema.ui.inspector.form import FIELD, Form
from anakinema.ui.outline.desk import Desk


def build_making(editor: Desk, form: Form, part: model.Part, key: OutlineKey) -> None:
    """Holes and slots, more outlines, and operations between outlines and on the whole part."""
    form.section("Add")

    def hole(make: Callable[[model.Part, str, float, float], AddHole]) -> Callable[[], None]:
        def run() -> None:
            edit = make(part, key.slab, 0.0, 0.0)
            editor.do(edit)
            editor.canvas.key = OutlineKey(part.id, key.slab, edit.hole.id)
            if editor.canvas.key not in outline_keys(editor.part() or part):
                editor.canvas.key = key
            editor.canvas.clear()

        return run

    form.buttons(
        ("add_hole", "Hole", hole(round_hole)),
        ("add_slot", "Slot", hole(slot_hole)),
        ("add_arc_slot", "Arc slot", hole(arc_slot)),
    )
    form.buttons(
        ("add_bent_slot", "Bent slot", hole(line_arc_slot)),
        ("add_curved_slot", "Curved slot", hole(curved_slot)),
        ("add_slab", "Slab on top", lambda: editor.do(new_slab(part))),
    )
    _build_combining(editor, form, part, key)
    _build_whole(editor, form)


def _build_combining(editor: Desk, form: Form, part: model.Part, key: OutlineKey) -> None:
    form.section("Combine")
    if key.hole is None:
        others = [slab.id for slab in part.slabs if slab.id != key.slab]
        shapes = [("disc", "Disc"), ("rectangle", "Rectangle"), ("path", "Corners")]
        form.buttons(
            *(
                (f"beside_{shape}", words, lambda s=shape: _beside(editor, part, key, s))
                for shape, words in shapes
            )
        )
        if others:
            box = _box("combine_with", "the other outline", others)
            form.layout.addWidget(box)
            form.buttons(
                ("combine_add", "Add it", lambda: editor.operate("added", box.currentData())),
                ("combine_cut", "Cut it out", lambda: editor.operate("cut", box.currentData())),
            )
        else:
            form.quiet("Put a shape beside this outline, then add it or cut it out.")
    typed = QLineEdit("2 mm")
    typed.setObjectName("offset_by")
    typed.setAccessibleName("offset, outwards")
    button = QPushButton("Offset")
    button.setObjectName("offset_outline")
    button.clicked.connect(lambda: editor.operate("offset", typed.text()))
    form.layout.addWidget(_line(typed, button))
    words = "copy" if key.hole is not None else "join"
    form.buttons(
        ("mirror_level", f"Mirror and {words}, level", lambda: editor.operate("mirror", False)),
        ("mirror_upright", "upright", lambda: editor.operate("mirror", True)),
    )
    count = QSpinBox()
    count.setObjectName("round_count")
    count.setAccessibleName("how many round the origin")
    count.setRange(2, 200)
    count.setValue(12)
    again = QPushButton("Repeat round origin")
    again.setObjectName("part_round")
    again.clicked.connect(lambda: editor.operate("round", count.value()))
    form.layout.addWidget(_line(count, again))


def _beside(editor: Desk, part: model.Part, key: OutlineKey, shape: str) -> None:
    edit = new_slab(part, shape, level_with=key.slab)
    editor.do(edit)
    editor.canvas.key = OutlineKey(part.id, edit.slab.id)
    editor.canvas.clear()


def _build_whole(editor: Desk, form: Form) -> None:
    form.section("Whole part")
    picks = editor.canvas.picks
    points = [pick for pick in picks if pick.kind in ("corner", "centre", "place")]
    entries: list[tuple[str, str, Callable[[], object]]] = [
        ("part_over", "Turn over", lambda: editor.operate("over"))
    ]
    if len(picks) == len(points) == 1:
        entries.append(("part_origin", "On origin", lambda: editor.operate("origin", *picks)))
    if len(picks) == len(points) == 2 or (len(picks) == 1 and picks[0].kind == "edge"):
        entries += [
            ("part_level", "Level", lambda: editor.operate("level", *picks)),
            ("part_upright", "Upright", lambda: editor.operate("upright", *picks)),
        ]
    form.buttons(*entries)
    if len(entries) == 1:
        form.quiet("Pick a point to put it on the origin, or an edge or two points to turn.")


def build_neighbours(editor: Desk, form: Form) -> None:
    """Other bodies where they stand, and their sizes to follow."""
    bench, canvas = editor.workbench, editor.canvas
    form.section("Neighbours")
    shown = QCheckBox("draw them where they stand")
    shown.setObjectName("show_neighbours")
    shown.setChecked(canvas.shows_neighbours)

    def toggle(on: bool) -> None:
        canvas.shows_neighbours = on
        canvas.update()

    shown.toggled.connect(toggle)
    form.layout.addWidget(shown)
    scene = bench.scene
    if scene is None:
        return
    bodies = [body.id for body in scene.resolved.document.bodies if body.id != canvas.body]
    if not bodies:
        return
    box = _box("neighbour", "neighbour", bodies)
    if canvas.neighbour in bodies:
        box.setCurrentIndex(bodies.index(canvas.neighbour))

    def chosen() -> None:
        canvas.neighbour = str(box.currentData())
        canvas.update()
        editor.rebuild()

    box.activated.connect(lambda _: chosen())
    form.layout.addWidget(box)
    for words, stated, name in sizes_of(scene, canvas.neighbour or bodies[0]):
        button = QPushButton(stated)
        button.setObjectName(f"follow_{name}")
        button.setToolTip(f"Put {name} into the number last typed in")
        button.clicked.connect(lambda _=False, n=name: editor.use_size(n))
        form.layout.addWidget(row(words, button, width=FIELD))


def _box(name: str, words: str, options: list[str]) -> QComboBox:
    box = QComboBox()
    box.setObjectName(name)
    box.setAccessibleName(words)
    box.setMinimumContentsLength(8)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    for option in options:
        box.addItem(option.replace("_", " "), option)
    return box


def _line(*widgets: QWidget) -> QWidget:
    holder = QWidget()
    layout = QHBoxLayout(holder)
    layout.setContentsMargins(0, 2, 0, 2)
    layout.setSpacing(4)
    for widget in widgets:
        layout.addWidget(widget)
    return holder
