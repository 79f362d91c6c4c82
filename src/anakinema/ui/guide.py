"""The bar of a guided build: one step at a time, with a ring where to click."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRect, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QPushButton, QScrollArea, QWidget

from anakinema.session import GuideState, next_step, steps_of
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.stage import Stage
from anakinema.ui.strip.lanes import Lanes
from anakinema.ui.workbench import Workbench

LOOK = 120
"""ms between two looks at where the ring belongs."""
ROUND = 17
"""Pixels: radius of a ring on the stage."""


@guarded
class Ring(QWidget):
    """Drawn over the window; takes no clicks."""

    def __init__(self, window: QWidget, colour: QColor) -> None:
        super().__init__(window)
        self.setObjectName("guide_ring")
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.targets: list[QRect] = []
        """Where it points, in the window."""
        self._colour = colour

    def point(self, targets: list[QRect]) -> None:
        """Point at rectangles of the window; from the first to the second if there are two."""
        if targets != self.targets:
            self.targets = targets
            self.update()
        parent = self.parentWidget()
        if parent is not None and self.geometry() != parent.rect():
            self.setGeometry(parent.rect())
        self.raise_()

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(self._colour, 3))
            for target in self.targets:
                painter.drawRoundedRect(target, 9, 9)
            if len(self.targets) == 2:
                painter.setPen(QPen(self._colour, 2, Qt.PenStyle.DashLine))
                painter.drawLine(self.targets[0].center(), self.targets[1].center())


class GuideBar(QWidget):
    """Says what to do next; reacts to what is really done."""

    def __init__(self, workbench: Workbench, stage: Stage) -> None:
        super().__init__()
        self.setObjectName("guide")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._workbench, self._stage = workbench, stage
        self._name = "four-bar"
        self._tried = self._played = False
        self._point = ""
        self._view = "stage"
        self._freedoms: int | None = None
        self.is_on = False
        self._ring: Ring | None = None
        self._words = label("", wrap=True)
        self._words.setObjectName("guide_words")
        self._end = QPushButton("End the guide")
        self._end.setObjectName("guide_end")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 7, 10, 7)
        row.addWidget(self._words, 1)
        row.addWidget(self._end)
        # High enough for every step, so that no step moves the stage.
        self.setFixedHeight(54)
        self._end.clicked.connect(self.stop)
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK)
        self._timer.timeout.connect(self._look)
        for happened in (
            workbench.document_changed,
            workbench.evaluated,
            workbench.tool_changed,
            workbench.selection_changed,
            workbench.station_changed,
        ):
            happened.connect(lambda *_: self._show())
        stage.drafts.join.changed.connect(self._show)
        workbench.trial_changed.connect(self._trial)
        workbench.playing_changed.connect(self._playing)
        self.hide()

    def start(self, name: str) -> None:
        """Begin with the first step of a build."""
        self._name = name
        self._tried = self._played = False
        self._freedoms = None
        self.is_on = True
        if self._ring is None:
            self._ring = Ring(self.window(), QColor(self._workbench.theme.accent))
        self._ring.show()
        self._timer.start()
        self.show()
        self._show()

    def stop(self) -> None:
        """Enough."""
        self.is_on = False
        self._timer.stop()
        if self._ring is not None:
            self._ring.hide()
        self.hide()

    def _trial(self) -> None:
        joined = len(self._workbench.session.document.joints) >= 4
        self._tried = self._tried or (
            joined and self._workbench.trial is not None and self._workbench.tool == ""
        )
        self._show()

    def _playing(self, on: bool) -> None:
        self._played = self._played or on
        self._show()

    def _state(self) -> GuideState:
        bench = self._workbench
        if bench.evaluation is not None and bench.is_current:
            # What was known last counts on while the next answer is worked out.
            self._freedoms = bench.evaluation.followed.mobility.freedoms
        selection = bench.selection
        parts = {body.id: body.part for body in bench.session.document.bodies}
        selected = parts.get(selection.id, "") if selection.kind == "body" else selection.kind
        for joint in bench.session.document.joints:
            if selection.kind == "joint" and joint.id == selection.id:
                sides = (parts.get(side.body, "") for side in (joint.second, joint.first))
                selected = " on ".join(sides)
        view = "stage" if self._stage.isVisible() else "studio"
        draft = self._stage.drafts.join
        return GuideState(
            bench.session.document,
            self._freedoms,
            self._tried,
            self._played,
            bench.is_playing,
            bench.tool,
            bench.station,
            view,
            selected,
            (draft.first is not None) + (draft.wish is not None),
        )

    def _show(self) -> None:
        if not self.is_on:
            return
        found = next_step(self._name, self._state())
        if found is None:
            self._words.setText(
                "That is a mechanism: it is yours to change, drive and check. F1 opens the guide,"
                " F2 shows all keys."
            )
            self._end.setText("Done")
            self._point = ""
        else:
            number, step = found
            self._end.setText("End the guide")
            self._words.setText(f"{number} of {len(steps_of(self._name))}   {step.words}")
            self._point = step.point
        self._look()

    # Pointing ------------------------------------------------------------------------------

    def _look(self) -> None:
        """Put the ring where the step points, scrolled into sight."""
        if self._ring is None or not self.is_on:
            return
        view = "stage" if self._stage.isVisible() else "studio"
        if view != self._view:
            self._view = view
            self._show()
            return
        kind, _, what = self._point.partition(":")
        rects: list[QRect | None] = []
        if kind == "shelf":
            rects = [self._shelf_rect(what)]
        elif kind == "stage":
            x, y = (float(each) for each in what.split(","))
            rects = [self._stage_rect(x, y)]
        elif kind in ("place", "drag"):
            rects = [self._place_rect(each) for each in what.split(">")]
            if kind == "drag" and self._workbench.tool == "join":
                rects = []
        elif kind == "block":
            rects = [self._block_rect(int(what))]
        elif kind == "body":
            rects = [self._body_rect(what)]
        elif kind == "widget":
            rects = [self._widget_rect(what)]
        self._ring.point([rect for rect in rects if rect is not None])

    def _shelf_rect(self, title: str) -> QRect | None:
        shelf = self.window().findChild(QListWidget, "shelf")
        if shelf is None or not shelf.isVisible() or self._workbench.tool:
            return None
        for row in range(shelf.count()):
            item = shelf.item(row)
            key = str(item.data(Qt.ItemDataRole.UserRole) or "part:")
            if item.text() == title and not item.isHidden() and not key.startswith("part:"):
                shelf.scrollToItem(item)
                return self._in_window(shelf.viewport(), shelf.visualItemRect(item))
        return None

    def _stage_rect(self, x: float, y: float) -> QRect:
        at = self._stage.to_pixels(x, y)
        return self._round(at)

    def _round(self, at: QPointF) -> QRect:
        box = QRect(round(at.x()) - ROUND, round(at.y()) - ROUND, 2 * ROUND, 2 * ROUND)
        return self._in_window(self._stage, box)

    def _place_rect(self, words: str) -> QRect | None:
        """A place of the first or second body of a part, where it is on show."""
        part, _, place = words.partition(".")
        part, _, number = part.partition("#")
        scene, poses = self._workbench.scene, self._workbench.shown_poses()
        if scene is None or poses is None:
            return None
        bodies = [b.id for b in scene.resolved.document.bodies if b.part.startswith(part)]
        index = int(number or 1) - 1
        if index >= len(bodies):
            return None
        point = type(scene)(scene.resolved, poses).point(bodies[index], place)
        return None if point is None else self._round(self._stage.to_pixels(*point))

    def _body_rect(self, part: str) -> QRect | None:
        """A spot of the first body of a part where nothing else is clicked."""
        scene = self._workbench.scene
        if scene is None:
            return None
        bodies = [b.id for b in scene.resolved.document.bodies if b.part.startswith(part)]
        at = self._stage.spot_of(bodies[0]) if bodies else None
        bench, playback = self._workbench, self._workbench.playback
        if at is None and bodies and playback is not None and not bench.is_playing:
            # It was stopped where others hide the body: at the start all can be seen.
            bench.move_playhead(playback.first)
            at = self._stage.spot_of(bodies[0])
        return None if at is None else self._round(at)

    def _block_rect(self, stage: int) -> QRect | None:
        """The block of a stage on the strip."""
        lanes = self.window().findChild(Lanes, "lanes")
        if lanes is None or not lanes.isVisible():
            return None
        boxes = [block.box.toRect() for block in lanes.blocks() if block.stage == stage]
        return self._in_window(lanes, boxes[0]) if boxes else None

    def _widget_rect(self, name: str) -> QRect | None:
        found = [w for w in self.window().findChildren(QWidget, name) if w.isVisible()]
        if not found:
            return None
        widget = found[0]
        area: QWidget | None = widget.parentWidget()
        while area is not None and not isinstance(area, QScrollArea):
            area = area.parentWidget()
        if isinstance(area, QScrollArea):
            panel = area.widget()
            if panel is not None and panel.height() < panel.minimumSizeHint().height():
                # Something has just come into the panel; it will be laid out anew.
                return None
            area.ensureWidgetVisible(widget)
        return self._in_window(widget, widget.rect().adjusted(-3, -3, 3, 3))

    def _in_window(self, widget: QWidget, rect: QRect) -> QRect:
        corner = widget.mapTo(self.window(), QPoint(rect.left(), rect.top()))
        return QRect(corner, rect.size())
