"""The outline editor: a part alone, its corners to drag, every number to type."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from anakinema.document import model
from anakinema.edits.base import Edit
from anakinema.edits.outline import (
    AddCorner,
    OutlineKey,
    RemoveCorner,
    RemoveHole,
    SetCorner,
    SetShape,
    SetSlab,
    outline_at,
)
from anakinema.errors import AnakinemaError
from anakinema.session import (
    arc_slot,
    corners_of,
    new_slab,
    outline_keys,
    part_operation,
    ring_of,
    round_hole,
    slot_hole,
    sound,
)
from anakinema.ui.fields import label, source_text
from anakinema.ui.inspector.form import Form
from anakinema.ui.stage.bodies import polygon
from anakinema.ui.stage.view import View, fitted, nice_step
from anakinema.ui.theme import Theme, font
from anakinema.ui.workbench import Workbench

HANDLE = 6


class OutlineCanvas(QWidget):
    """The part's outlines; drag a corner, double-click an edge for a new one, Delete takes it."""

    picked = Signal(object, int)

    def __init__(self, workbench: Workbench, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("outline_canvas")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._workbench, self._theme = workbench, theme
        self.part = ""
        self.key: OutlineKey | None = None
        self.corner = -1
        self.view = View()
        self._drag = False
        workbench.scene_changed.connect(self.update)

    def show_part(self, part: str) -> None:
        """Begin with a part."""
        self.part, self.corner = part, -1
        found = self._part()
        keys = outline_keys(found) if found is not None else []
        self.key = keys[0] if keys else None
        self.fit()

    def _part(self) -> model.Part | None:
        parts = self._workbench.session.document.parts
        return next((part for part in parts if part.id == self.part), None)

    def keys(self) -> list[OutlineKey]:
        """Outlines that the scene on show has."""
        scene, found = self._workbench.scene, self._part()
        if scene is None or found is None or self.part not in scene.resolved.parts:
            return []
        known = {
            OutlineKey(self.part, slab.id, name)
            for slab in scene.resolved.parts[self.part].slabs
            for name in (None, *slab.region.hole_names)
        }
        return [key for key in outline_keys(found) if key in known]

    def fit(self) -> None:
        """Show the whole part."""
        scene, keys = self._workbench.scene, self.keys()
        if scene is not None and keys:
            rings = [ring_of(scene, key) for key in keys if key.hole is None]
            low_x, low_y = (min(float(r[:, k].min()) for r in rings) for k in (0, 1))
            high_x, high_y = (max(float(r[:, k].max()) for r in rings) for k in (0, 1))
            self.view = fitted((low_x, low_y, high_x, high_y), self.width(), self.height())
        self.update()

    def to_pixels(self, x: float, y: float) -> QPointF:
        """Where a place of the part (mm) is on the canvas."""
        return self.view.transform(self.width(), self.height()).map(QPointF(x, y))

    def paintEvent(self, event: QPaintEvent) -> None:
        t, scene = self._theme, self._workbench.scene
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.stage))
        keys, found = self.keys(), self._part()
        if scene is None or found is None or not keys:
            painter.setPen(QColor(t.quiet))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "This part has no outline.")
            painter.end()
            return
        view = self.view.transform(self.width(), self.height())
        step = nice_step(self.view.scale, 44)
        painter.setPen(QPen(QColor(t.grid), 1))
        origin = view.map(QPointF(0, 0))
        for k in range(-200, 201):
            x, y = origin.x() + k * step * self.view.scale, origin.y() + k * step * self.view.scale
            if 0 <= x <= self.width():
                painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
            if 0 <= y <= self.height():
                painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        painter.setPen(QPen(QColor(t.quiet), 1.2))
        painter.drawLine(origin - QPointF(9, 0), origin + QPointF(9, 0))
        painter.drawLine(origin - QPointF(0, 9), origin + QPointF(0, 9))
        for key in keys:
            ring = view.map(polygon(ring_of(scene, key)))
            chosen = key == self.key
            painter.setPen(QPen(QColor(t.accent if chosen else t.shade), 2.2 if chosen else 1.2))
            fill = t.stage if key.hole else t.bodies[found.colour]
            painter.setBrush(QColor(fill))
            painter.drawPolygon(ring)
        if self.key in keys and self.key is not None:
            for k, (x, y) in enumerate(corners_of(scene, self.key)):
                at = view.map(QPointF(x, y))
                painter.setPen(QPen(QColor(t.accent), 1.6))
                painter.setBrush(QColor(t.accent if k == self.corner else t.card))
                painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
                painter.setFont(font(12))
                painter.drawText(at + QPointF(8, -6), str(k + 1))
        units = scene.resolved.units
        painter.setPen(QColor(t.quiet))
        painter.drawText(12, self.height() - 12, f"grid {units.format(step, (1, 0, 0), 0)}")
        painter.end()

    def _plane(self, at: QPointF) -> tuple[float, float]:
        return self.view.to_plane(at, self.width(), self.height())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        scene, keys = self._workbench.scene, self.keys()
        if scene is None:
            return
        at = event.position()
        order = [self.key] if self.key in keys else []
        for key in [*order, *reversed(keys)]:
            if key is None:
                continue
            for k, (x, y) in enumerate(corners_of(scene, key)):
                away = self.to_pixels(x, y) - at
                if math.hypot(away.x(), away.y()) <= HANDLE + 3:
                    self.key, self.corner, self._drag = key, k, True
                    self.picked.emit(key, k)
                    self.update()
                    return
        for key in reversed(keys):
            ring = polygon(ring_of(scene, key))
            if ring.containsPoint(QPointF(*self._plane(at)), Qt.FillRule.OddEvenFill):
                self.key, self.corner = key, -1
                self.picked.emit(key, -1)
                self.update()
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._drag or self.key is None:
            return
        step = nice_step(self.view.scale, 44) / 10
        x, y = (round(v / step) * step for v in self._plane(event.position()))
        shape = outline_at(self._workbench.session.document, self.key)
        edit: Edit
        if isinstance(shape, (model.Path, model.Hull)):
            values = (("x", f"{x:.6g} mm"), ("y", f"{y:.6g} mm"))
            edit = SetCorner(self.key, self.corner, values)
            self._try(edit)
            return
        for name, value in (("x", x), ("y", y)):
            self._try(SetShape(self.key, name, f"{value:.6g} mm"))

    def _try(self, edit: Edit) -> None:
        """Apply an edit that leaves the part sound; one that folds it is only told."""
        trouble = sound(self._workbench.session.document, edit)
        if trouble is None:
            self._workbench.dismiss_trouble()
            self._workbench.do(edit)
        else:
            self._workbench.report(trouble)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag:
            self._workbench.finish_gesture()
        self._drag = False

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        scene = self._workbench.scene
        if scene is None or self.key not in self.keys() or self.key is None:
            return
        shape = outline_at(self._workbench.session.document, self.key)
        if not isinstance(shape, (model.Path, model.Hull)):
            return
        x, y = self._plane(event.position())
        corners = corners_of(scene, self.key)
        pairs = zip(corners, (*corners[1:], corners[0]), strict=True)
        away = [math.dist((x, y), a) + math.dist((x, y), b) - math.dist(a, b) for a, b in pairs]
        after = away.index(min(away))
        self._try(AddCorner(self.key, after, f"{x:.6g} mm", f"{y:.6g} mm", "5 mm"))
        self._workbench.finish_gesture()
        self.corner = after + 1
        self.picked.emit(self.key, self.corner)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Backspace and self.key is not None and self.corner >= 0:
            self._try(RemoveCorner(self.key, self.corner))
            self._workbench.finish_gesture()
            self.corner = -1
            self.picked.emit(self.key, -1)
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.0015 ** event.angleDelta().y()
        self.view = self.view.zoomed(factor, event.position(), self.width(), self.height())
        self.update()


class OutlineEditor(QWidget):
    """Canvas and numbers side by side; Done goes back to the stage."""

    done = Signal()

    def __init__(self, workbench: Workbench, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("outline_editor")
        self._workbench = workbench
        self.canvas = OutlineCanvas(workbench, theme)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFixedWidth(286)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._form: Form | None = None
        self._shape: object = None
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.canvas, 1)
        layout.addWidget(self._scroll)
        self.canvas.picked.connect(lambda *_: self._build())
        workbench.document_changed.connect(self._changed)
        workbench.scene_changed.connect(self._changed)

    def edit_part(self, part: str) -> None:
        """Begin with a part of the document."""
        self.canvas.show_part(part)
        self._build()

    def _changed(self) -> None:
        if not self.isVisible():
            return
        if self._now() != self._shape:
            self._build()
        elif self._form is not None:
            self._form.refresh()

    def _now(self) -> object:
        document, key = self._workbench.session.document, self.canvas.key
        part = next((p for p in document.parts if p.id == self.canvas.part), None)
        if part is None:
            return None
        corners = 0
        if key is not None and key in outline_keys(part):
            shape = outline_at(document, key)
            corners = len(getattr(shape, "vertices", getattr(shape, "rounds", ())))
        places = tuple(place.id for place in part.places)
        return part.id, tuple(outline_keys(part)), places, key, self.canvas.corner, corners

    def _do(self, edit: Edit) -> None:
        trouble = sound(self._workbench.session.document, edit)
        if trouble is not None:
            self._workbench.report(trouble)
            return
        self._workbench.do(edit)
        self._workbench.finish_gesture()

    def _operate(self, name: str, *values: object) -> None:
        scene, key = self._workbench.rest(), self.canvas.key
        if scene is None or key is None:
            return
        try:
            edit = part_operation(scene, key, name, *values)
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._workbench.do(edit)
        self._workbench.finish_gesture()

    def _build(self) -> None:
        self._shape = self._now()
        panel = QWidget()
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(12, 10, 12, 10)
        layout.setSpacing(2)
        form = self._form = Form(self._workbench, layout)
        document, canvas = self._workbench.session.document, self.canvas
        part = next((p for p in document.parts if p.id == canvas.part), None)
        if part is not None:
            form.heading(f"Outline of {part.title}")
            form.buttons(("outline_done", "Done", self.done.emit))
            self._build_keys(form, part)
            if canvas.key is not None and canvas.key in outline_keys(part):
                self._build_shape(form, canvas.key)
                self._build_part(form, part, canvas.key)
        layout.addStretch(1)
        old = self._scroll.takeWidget()
        if old is not None:
            old.deleteLater()
        self._scroll.setWidget(panel)

    def _build_keys(self, form: Form, part: model.Part) -> None:
        box = QComboBox()
        box.setObjectName("outline_key")
        for key in outline_keys(part):
            words = key.slab if key.hole is None else f"{key.slab}: {key.hole}"
            box.addItem(words.replace("_", " "), key)
        if self.canvas.key is not None:
            box.setCurrentIndex(max(0, box.findData(self.canvas.key)))

        def chosen() -> None:
            self.canvas.key, self.canvas.corner = box.currentData(), -1
            self.canvas.update()
            self._build()

        box.activated.connect(lambda _: chosen())
        form.layout.addWidget(box)

    def _build_shape(self, form: Form, key: OutlineKey) -> None:
        bench = self._workbench
        shape = outline_at(bench.session.document, key)

        def number(field: str) -> str:
            return source_text(getattr(outline_at(bench.session.document, key), field))

        fields = {
            "circle": ("x", "y", "radius"),
            "rectangle": ("x", "y", "width", "height", "corner", "turned"),
        }.get(shape.shape, ())
        for field in fields:
            form.quantity(field, f"shape_{field}", lambda f=field: number(f),
                          lambda text, f=field: SetShape(key, f, text))  # fmt: skip
        if isinstance(shape, (model.Path, model.Hull)):
            self._build_corners(form, key, shape)
        else:
            form.buttons(("outline_path", "Make it a path", lambda: self._operate("path")))
        if key.hole is None:
            for field, words in (("bottom", "lower face"), ("top", "upper face")):
                form.quantity(
                    words, f"slab_{field}",
                    lambda f=field: source_text(
                        getattr(
                            model.next_by_id(
                                bench.session.document.part(key.part).slabs, key.slab
                            ),
                            f,
                        )
                    ),
                    lambda text, f=field: SetSlab(key.part, key.slab, f, text),
                )  # fmt: skip
        else:
            hole = key.hole
            form.buttons(
                ("outline_drop", "Delete this hole",
                 lambda: self._do(RemoveHole(key.part, key.slab, hole)))
            )  # fmt: skip

    def _build_corners(self, form: Form, key: OutlineKey, shape: model.Path | model.Hull) -> None:
        bench = self._workbench
        name = "vertices" if isinstance(shape, model.Path) else "rounds"
        fields = ("x", "y", "bulge", "fillet") if name == "vertices" else ("x", "y", "radius")
        index = self.canvas.corner
        count = len(getattr(shape, name))
        if not 0 <= index < count:
            form.layout.addWidget(
                label(f"{count} corners. Click one to type its numbers; drag it; double-click an"
                      " edge for a new one.", "quiet", wrap=True)
            )  # fmt: skip
            return
        form.section(f"Corner {index + 1}")
        for field in fields:

            def source(f: str = field) -> str:
                found = getattr(outline_at(bench.session.document, key), name)
                return source_text(getattr(found[index], f)) if index < len(found) else ""

            form.quantity(field, f"corner_{field}", source,
                          lambda text, f=field: SetCorner(key, index, ((f, text),)))  # fmt: skip
        if name == "vertices":
            form.quiet("Bulge bends the edge to the next corner: tan of a quarter of its turn.")
        form.buttons(
            ("corner_drop", "Delete corner", lambda: self._do(RemoveCorner(key, index))),
        )

    def _build_part(self, form: Form, part: model.Part, key: OutlineKey) -> None:
        form.section("Add")
        at = (0.0, 0.0)
        form.buttons(
            ("add_hole", "Hole", lambda: self._do(round_hole(part, key.slab, *at))),
            ("add_slot", "Slot", lambda: self._do(slot_hole(part, key.slab, *at))),
            ("add_arc_slot", "Arc slot", lambda: self._do(arc_slot(part, key.slab, *at))),
            ("add_slab", "Slab", lambda: self._do(new_slab(part))),
        )
        form.section("Whole part")
        form.buttons(("part_over", "Turn over", lambda: self._operate("over")))
        places = [place.id for place in part.places]
        if places:
            first, second = QComboBox(), QComboBox()
            for name, box in (("place_first", first), ("place_second", second)):
                box.setObjectName(name)
                for place in places:
                    box.addItem(place.replace("_", " "), place)
            second.setCurrentIndex(min(1, len(places) - 1))
            line = QHBoxLayout()
            line.addWidget(first)
            line.addWidget(second)
            form.layout.addLayout(line)
            form.buttons(
                ("part_origin", "First on origin",
                 lambda: self._operate("origin", first.currentData())),
                ("part_level", "Line level",
                 lambda: self._operate("level", first.currentData(), second.currentData())),
            )  # fmt: skip
        count = QSpinBox()
        count.setObjectName("round_count")
        count.setRange(2, 200)
        count.setValue(12)
        round_button = QPushButton("Repeat round origin")
        round_button.setObjectName("part_round")
        round_button.clicked.connect(lambda: self._operate("round", count.value()))
        line = QHBoxLayout()
        line.addWidget(count)
        line.addWidget(round_button)
        form.layout.addLayout(line)
