"""The outline editor: paper and numbers side by side; Done goes back to the stage."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from anakinema.authoring import Way, just_set, outline_keys, part_operation, placings, ways
from anakinema.document import dimensions_of, model
from anakinema.edits import (
    Edit,
    OutlineKey,
    RemoveCorner,
    RemoveHole,
    SetCorner,
    SetPlace,
    SetShape,
    SetSlab,
    made,
    outline_in,
)
from anakinema.errors import AnakinemaError
from anakinema.ui.fields import QuantityField, label, source_text
from anakinema.ui.inspector.form import Form
from anakinema.ui.outline.canvas import Ghost, OutlineCanvas
from anakinema.ui.outline.making import build_making, build_neighbours
from anakinema.ui.outline.related import build_kept, build_picks, build_ways
from anakinema.ui.workbench import Workbench

MOST_WAYS = 3


class OutlineEditor(QWidget):
    """Everything about a part's outlines, by mouse on the canvas or by keys in the panel."""

    done = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("outline_editor")
        self.workbench = workbench
        self.canvas = OutlineCanvas(workbench)
        self.ways: tuple[Way, ...] = ()
        self._last_field = ""
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFixedWidth(300)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._form: Form | None = None
        self._shape: object = None
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.canvas, 1)
        layout.addWidget(self._scroll)
        self.canvas.picked.connect(self._picked)
        self.canvas.neighbour_picked.connect(lambda _: self.rebuild())
        workbench.document_changed.connect(self._changed)
        workbench.scene_changed.connect(self._changed)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            application.focusChanged.connect(self._focus_moved)

    def edit_part(self, part: str, body: str) -> None:
        """Begin with a part of the document, where a body of it stands."""
        self.ways = ()
        self.canvas.show_part(part, body)
        self.rebuild()

    def part(self) -> model.Part | None:
        """The part being edited, None if it is gone."""
        return self.canvas.found()

    # Edits --------------------------------------------------------------------------------

    def do(self, edit: Edit) -> None:
        """An edit as a step of its own, with all that follows from it."""
        self.canvas.attempt(edit)
        self.canvas.finish()

    def operate(self, name: str, *values: object) -> None:
        """An operation on the outline at hand or the whole part; what cannot be is stated."""
        scene, key = self.workbench.drawn_scene(), self.canvas.key
        if scene is None or key is None:
            return
        try:
            edit = made(lambda: part_operation(scene, key, name, *values), name)
        except AnakinemaError as error:
            self.workbench.report(error)
            return
        self.canvas.picks = []
        self.workbench.do_once(edit)
        self.rebuild()

    def offer(self, edit: Edit, index: int) -> None:
        """A relation that comes or changes: done if there is one way, else both are shown first."""
        bench = self.workbench
        try:
            found = ways(bench.session.document, edit, self.canvas.part, index)
        except AnakinemaError as error:
            bench.report(error)
            self.rebuild()
            return
        bench.dismiss_trouble()
        if len(found) == 1 and found[0].edit is not None:
            self.take(found[0])
            return
        self.show_ways(found)

    def show_ways(self, found: tuple[Way, ...]) -> None:
        """Draw all ways a change can come out; the panel asks which is meant."""
        self.ways = found[:MOST_WAYS]
        self.canvas.ghosts = tuple(
            Ghost(
                tuple(ring for _, ring in way.rings),
                "AB C"[k] if way.edit else f"{'ABC'[k]} folds",
                way.edit is not None,
            )
            for k, way in enumerate(self.ways)
        )
        self.canvas.fit()
        self.rebuild()

    def finish_typing(self) -> None:
        """A number has been typed: if what is kept allows two outlines, both are shown first."""
        bench, edit = self.workbench, self.canvas.last
        self.canvas.last = None
        folds = bool(self.canvas.ghosts) and not self.canvas.ghosts[0].is_sound
        if folds or not isinstance(edit, (SetCorner, SetPlace, SetShape)):
            self.canvas.finish()
            return
        bench.cancel_gesture()
        document = bench.session.document
        found = placings(document, edit, self.canvas.part, just_set(document, edit))
        if len(found) > 1:
            self.show_ways(found)
            return
        self.canvas.attempt(edit)
        self.canvas.finish()

    def take(self, way: Way) -> None:
        """Go one of the ways shown."""
        self.leave()
        if way.edit is not None:
            self.workbench.do_once(way.edit)
        self.rebuild()

    def leave(self) -> None:
        """Go none of the ways shown."""
        self.ways, self.canvas.ghosts = (), ()
        self.canvas.update()

    def use_size(self, expression: str) -> None:
        """Put an expression into the number that was last typed in."""
        field = self.findChild(QuantityField, self._last_field) if self._last_field else None
        if field is None:
            self.workbench.report("Click into the number that is to follow it, then choose it.")
            return
        field.setFocus()
        field.setText(expression)
        field.textEdited.emit(expression)
        field.editingFinished.emit()

    def _focus_moved(self, _: QWidget | None, now: QWidget | None) -> None:
        if isinstance(now, QuantityField) and self.isAncestorOf(now):
            self._last_field = now.objectName()

    # The panel ----------------------------------------------------------------------------

    def _picked(self) -> None:
        self.ways = ()
        self.rebuild()

    def _changed(self) -> None:
        if not self.isVisible():
            return
        if self._now() != self._shape:
            self.rebuild()
        elif self._form is not None:
            self._form.refresh()

    def _now(self) -> object:
        """What the panel's rows depend on."""
        part, key = self.part(), self.canvas.key
        if part is None:
            return None
        kind, corners = "", 0
        if key is not None and key in outline_keys(part):
            shape = outline_in(part, key)
            kind = shape.shape
            corners = len(getattr(shape, "vertices", getattr(shape, "rounds", ())))
        places = tuple(place.id for place in part.places)
        kept = tuple((r.kind, r.of) for r in part.relations)
        return part.id, tuple(outline_keys(part)), places, key, kind, corners, kept, self.ways

    def field(self, name: str) -> QuantityField | None:
        """A number of the panel by its name."""
        return self.findChild(QuantityField, name)

    def rebuild(self) -> None:
        """Make the panel anew, where it was scrolled to and with the focus where it was."""
        self._shape = self._now()
        focus = self.window().focusWidget() if self.window() is not None else None
        name = focus.objectName() if focus is not None and self.isAncestorOf(focus) else ""
        bar = self._scroll.verticalScrollBar()
        place = bar.value()
        panel = QWidget()
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(12, 10, 12, 10)
        layout.setSpacing(2)
        form = self._form = Form(self.workbench, layout, self.canvas.attempt, self.finish_typing)
        part = self.part()
        if part is not None and self.canvas.key not in (keys := outline_keys(part)):
            self.canvas.key = keys[0] if keys else None
        key = self.canvas.key
        if part is not None:
            form.heading(f"Outline of {part.title}")
            form.buttons(("outline_done", "Done", self.done.emit))
            self._build_keys(form, part)
            if self.ways:
                build_ways(self, form)
            if key is not None:
                self._build_shape(form, part, key)
                build_picks(self, form, part, key)
                build_kept(self, form, part)
                build_making(self, form, part, key)
                build_neighbours(self, form)
        layout.addStretch(1)
        old = self._scroll.takeWidget()
        if old is not None:
            old.deleteLater()
        self._scroll.setWidget(panel)
        panel.adjustSize()
        bar.setValue(place)
        again = panel.findChild(QWidget, name) if name else None
        if again is not None:
            again.setFocus()

    def _build_keys(self, form: Form, part: model.Part) -> None:
        box = QComboBox()
        box.setObjectName("outline_key")
        box.setAccessibleName("outline")
        for k, key in enumerate(outline_keys(part)):
            words = key.slab if key.hole is None else f"{key.slab}: {key.hole}"
            box.addItem(words.replace("_", " "), key)
            if key == self.canvas.key:
                box.setCurrentIndex(k)

        def chosen() -> None:
            self.canvas.key = box.currentData()
            self.canvas.clear()

        box.activated.connect(lambda _: chosen())
        form.layout.addWidget(box)

    def _outline(self, key: OutlineKey) -> model.Outline:
        return outline_in(self.workbench.session.document.part(key.part), key)

    def _build_shape(self, form: Form, part: model.Part, key: OutlineKey) -> None:
        shape = outline_in(part, key)
        form.quantities(
            [(field, field) for field in dimensions_of(type(shape))],
            "shape",
            lambda field: source_text(getattr(self._outline(key), field)),
            lambda field, text: SetShape(key, field, text),
        )
        if isinstance(shape, model.SlotAlong):
            form.check(
                "smooth through its corners",
                "slot_spline",
                lambda: bool(getattr(self._outline(key), "spline", False)),
                lambda on: SetShape(key, "spline", on),
            )
        if isinstance(shape, (model.Path, model.Hull, model.SlotAlong)):
            self._build_corner(form, key, shape)
        else:
            form.buttons(("outline_path", "Make it a path", lambda: self.operate("path")))
        self._build_place(form, part)
        if key.hole is None:
            form.quantities(
                (("bottom", "lower face"), ("top", "upper face")),
                "slab",
                lambda field: source_text(getattr(self._slab(key), field)),
                lambda field, text: SetSlab(key.part, key.slab, field, text),
            )
        else:
            hole = key.hole
            form.buttons(
                (
                    "outline_drop",
                    "Delete this hole",
                    lambda: self.do(RemoveHole(key.part, key.slab, hole)),
                )
            )

    def _slab(self, key: OutlineKey) -> model.Slab:
        return model.next_by_id(self.workbench.session.document.part(key.part).slabs, key.slab)

    def _build_corner(
        self, form: Form, key: OutlineKey, shape: model.Path | model.Hull | model.SlotAlong
    ) -> None:
        name = "rounds" if isinstance(shape, model.Hull) else "vertices"
        fields: tuple[str, ...]
        fields = ("x", "y", "bulge", "fillet") if name == "vertices" else ("x", "y", "radius")
        if isinstance(shape, model.SlotAlong) and shape.spline:
            fields = ("x", "y")
        index, count = self.canvas.corner, len(getattr(shape, name))
        if not 0 <= index < count:
            form.layout.addWidget(
                label(
                    f"{count} corners. Click one to type its numbers; drag it; double-click an"
                    " edge for a new one. Click edges too, with Shift several, to relate them.",
                    "quiet",
                    wrap=True,
                )
            )
            return
        form.section(f"Corner {index + 1}")

        def source(field: str) -> str:
            found = getattr(self._outline(key), name)
            return source_text(getattr(found[index], field)) if index < len(found) else ""

        form.quantities(
            fields, "corner", source, lambda field, text: SetCorner(key, index, ((field, text),))
        )
        if name == "vertices":
            form.quiet("Bulge bends the edge to the next corner: tan of a quarter of its turn.")
        form.buttons(("corner_drop", "Delete corner", lambda: self._drop_corner(key, index)))

    def _drop_corner(self, key: OutlineKey, index: int) -> None:
        self.canvas.picks = []
        self.do(RemoveCorner(key, index))
        self.rebuild()

    def _build_place(self, form: Form, part: model.Part) -> None:
        picks = self.canvas.picks
        if len(picks) != 1 or picks[0].kind != "place" or not picks[0].place:
            return
        name = picks[0].place
        if all(place.id != name for place in part.places):
            return
        form.section(f"Place {name.replace('_', ' ')}")

        def source(field: str) -> str:
            found = self.part()
            places = found.places if found is not None else ()
            return next((source_text(getattr(p, field)) for p in places if p.id == name), "")

        form.quantities(
            ("x", "y", "angle"),
            "place",
            source,
            lambda field, text: SetPlace(part.id, name, ((field, text),)),
        )
