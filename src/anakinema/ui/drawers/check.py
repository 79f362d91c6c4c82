"""The Check drawer: every requirement with its value and its margin."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from anakinema.authoring import Suggestion, suggested
from anakinema.document import Going
from anakinema.edits import Ask, Edit, MoveRequirement, Remove, SetRequirement
from anakinema.findings import Evaluation, Finding, Outcome, asked_words, cautions, value_words
from anakinema.ui.drawers.trials import TrialList
from anakinema.ui.fields import clear, label
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.overlays import outcome_colour
from anakinema.ui.theme import Theme, font, scaled
from anakinema.ui.workbench import Selection, Workbench


@guarded
class FindingRow(QWidget):
    """One requirement: a mark of its own shape per outcome, its value, and a margin bar."""

    edit_asked = Signal(str)

    def __init__(self, workbench: Workbench, finding_id: str) -> None:
        super().__init__()
        self.setObjectName(f"finding_{finding_id}")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._workbench = workbench
        self._id = finding_id
        self._finding: Finding | None = None
        self._evaluation: Evaluation | None = None
        self._is_long = False
        """Whether its title takes two lines."""

    def show_finding(self, evaluation: Evaluation, finding: Finding) -> None:
        """Show another answer."""
        self._evaluation, self._finding = evaluation, finding
        value = value_words(evaluation, finding)
        asked = asked_words(evaluation, finding)
        self.setAccessibleName(f"{finding.outcome.value}: {finding.title}, {value}, {asked}")
        self.setToolTip(f"{finding.outcome.value}: {finding.title}")
        wide = QFontMetrics(font(13)).horizontalAdvance(finding.title) > self.width() - 46
        if wide != self._is_long:
            self._is_long = wide
            self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, 54 + self._more)

    @property
    def _more(self) -> int:
        """Pixels of a second line of the title."""
        return scaled(16) if self._is_long else 0

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._evaluation is not None and self._finding is not None:
            self.show_finding(self._evaluation, self._finding)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        is_alt = event.modifiers() & Qt.KeyboardModifier.AltModifier
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._choose()
        elif is_alt and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._do(MoveRequirement(self._id, -1 if event.key() == Qt.Key.Key_Up else 1))
        elif event.key() == Qt.Key.Key_Menu:
            self.menu().popup(self.mapToGlobal(self.rect().center()))
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu().popup(event.globalPos())

    def menu(self) -> QMenu:
        """What can be done to it."""
        menu = QMenu(self)
        menu.addAction("Show where it is", self._choose)
        asked = {r.id: r for r in self._workbench.session.document.requirements}
        own = asked.get(self._id)
        if own is not None:
            menu.addAction("Ask it otherwise", lambda: self.edit_asked.emit(self._id))
            menu.addAction("Move up", lambda: self._do(MoveRequirement(self._id, -1)))
            menu.addAction("Move down", lambda: self._do(MoveRequirement(self._id, 1)))
            words = "Ask it again" if own.off else "Do not ask it for now"
            menu.addAction(words, lambda: self._do(SetRequirement(self._id, "off", not own.off)))
            gone = Going(requirements=frozenset((self._id,)))
            menu.addAction("Delete", lambda: self._do(Remove(gone, "Delete")))
        return menu

    def _do(self, edit: Edit) -> None:
        if any(r.id == self._id for r in self._workbench.session.document.requirements):
            self._workbench.do_once(edit)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.edit_asked.emit(self._id)

    def _choose(self) -> None:
        self._workbench.select(Selection("finding", self._id))
        if self._finding is not None and self._finding.progress is not None:
            self._workbench.play(False)
            self._workbench.move_playhead(self._finding.progress)

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        finding, evaluation = self._finding, self._evaluation
        if finding is None or evaluation is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = self._workbench.theme
        colour = outcome_colour(finding.outcome, t)
        chosen = self._workbench.selection == Selection("finding", self._id)
        if chosen:
            painter.fillRect(self.rect(), QColor(t.card))
            painter.fillRect(0, 0, 3, self.height(), colour)
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.accent), 1.5))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        draw_mark(painter, QPointF(20, 16), finding.outcome, t)
        painter.setFont(font(13))
        painter.setPen(QColor(t.ink))
        width = self.width() - 46
        more = self._more
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(34, 6, width, 20 + more), flags, finding.title)
        painter.setFont(font(13, strong=True))
        value = value_words(evaluation, finding)
        painter.setPen(colour if finding.outcome is not Outcome.PASS else QColor(t.ink))
        used = painter.fontMetrics().horizontalAdvance(value)
        painter.drawText(QRectF(34, 25 + more, width, 18), Qt.AlignmentFlag.AlignVCenter, value)
        painter.setFont(font(12))
        painter.setPen(QColor(t.quiet))
        asked = asked_words(evaluation, finding)
        if finding.outcome in (Outcome.WARN, Outcome.UNKNOWN):
            asked = f"{asked}, warning" if finding.outcome is Outcome.WARN else asked
        room = QRectF(42 + used, 25 + more, self.width() - 50 - used, 18)
        if painter.fontMetrics().horizontalAdvance(asked) > room.width():
            # The mark says what the word would.
            overlaps = finding.gap is not None and finding.gap.overlaps
            asked = "" if overlaps else asked_words(evaluation, finding)
        if painter.fontMetrics().horizontalAdvance(asked) > room.width():
            painter.setFont(font(10))
        asked = painter.fontMetrics().elidedText(
            asked, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, asked)
        self._draw_bar(painter, finding, colour)

    def _draw_bar(self, painter: QPainter, finding: Finding, colour: QColor) -> None:
        """Value against its bound; the bound is the notch."""
        share = _share(finding)
        if share is None:
            return
        left, wide, down = 34.0, self.width() - 48.0, self._more
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self._workbench.theme.line))
        painter.drawRoundedRect(QRectF(left, 47 + down, wide, 3), 1.5, 1.5)
        painter.setBrush(colour)
        painter.drawRoundedRect(QRectF(left, 47 + down, max(2.0, wide * share[0]), 3), 1.5, 1.5)
        painter.setBrush(QColor(self._workbench.theme.ink))
        painter.drawRect(QRectF(left + wide * share[1] - 0.75, 44.5 + down, 1.5, 8))


def _share(finding: Finding) -> tuple[float, float] | None:
    """Value and bound as shares of a bar."""
    bound = finding.least if finding.least is not None else finding.greatest
    if finding.value is None or bound is None or bound <= 0:
        return None
    full = 1.5 * max(bound, 1e-12)
    value = max(0.0, finding.value)
    if value > full:
        full = value
    return min(value / full, 1.0), min(bound / full, 1.0)


def draw_mark(painter: QPainter, at: QPointF, outcome: Outcome, theme: Theme) -> None:
    """A disc passes, a diamond doubts, a triangle fails, a ring cannot be judged."""
    colour = outcome_colour(outcome, theme)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    x, y = at.x(), at.y()
    if outcome is Outcome.PASS:
        painter.drawEllipse(at, 4.5, 4.5)
    elif outcome is Outcome.WARN:
        painter.drawPolygon(
            QPolygonF([QPointF(x, y - 6), QPointF(x + 6, y), QPointF(x, y + 6), QPointF(x - 6, y)])
        )
    elif outcome is Outcome.FAIL:
        painter.drawPolygon(
            QPolygonF([QPointF(x, y - 6), QPointF(x + 6, y + 5), QPointF(x - 6, y + 5)])
        )
    else:
        painter.setPen(QPen(colour, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, 4.5, 4.5)


class CheckDrawer(QWidget):
    """All findings, worst seen at a glance, and the usual cautions."""

    edit_asked = Signal(str)
    """Id of a requirement whose sentence is to be changed."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 10, 0, 10)
        self._layout.setSpacing(0)
        self._rows: dict[str, FindingRow] = {}
        self._shown_off: list[str] = []
        self._caution = label("", "quiet", wrap=True)
        self._caution.setObjectName("caution")
        self._caution.setContentsMargins(14, 12, 12, 4)
        heading = label("Checks over the whole motion", "section")
        heading.setContentsMargins(14, 0, 12, 6)
        self._layout.addWidget(heading)
        self._worth = QVBoxLayout()
        self._worth.setContentsMargins(14, 6, 12, 0)
        self._worth.setSpacing(4)
        self._shown_worth: tuple[Suggestion, ...] = ()
        self._layout.addLayout(self._worth)
        self._off = QVBoxLayout()
        self._off.setContentsMargins(14, 0, 12, 0)
        self._layout.addLayout(self._off)
        self._layout.addWidget(TrialList(workbench))
        self._layout.addWidget(self._caution)
        self._layout.addStretch(1)
        workbench.evaluated.connect(self._show)
        workbench.selection_changed.connect(self._repaint_rows)
        workbench.station_changed.connect(lambda _: self._show_worth())
        self._show()

    def _show(self) -> None:
        evaluation = self._workbench.evaluation
        findings = evaluation.verdict.findings if evaluation is not None else ()
        wanted = [finding.id for finding in findings]
        if wanted != list(self._rows):
            for row in self._rows.values():
                self._layout.removeWidget(row)
                row.hide()
                row.deleteLater()
            self._rows = {i: FindingRow(self._workbench, i) for i in wanted}
            for row in self._rows.values():
                row.edit_asked.connect(self.edit_asked)
            for index, row in enumerate(self._rows.values()):
                self._layout.insertWidget(1 + index, row)
        for finding in findings:
            assert evaluation is not None
            self._rows[finding.id].show_finding(evaluation, finding)
        self._show_worth()
        self._show_off()
        words = cautions(evaluation) if evaluation is not None else []
        self._caution.setText("\n\n".join(f"Caution: {text}" for text in words))

    def _show_worth(self) -> None:
        """What is worth asking, while nothing is asked: a click asks for what is so now."""
        bench = self._workbench
        evaluation = bench.evaluation
        found: tuple[Suggestion, ...] = ()
        if evaluation is not None and evaluation.is_exact and bench.station == "Check":
            found = () if bench.session.document.requirements else suggested(evaluation)
        if [s.words + s.now for s in found] == [s.words + s.now for s in self._shown_worth]:
            return
        self._shown_worth = found
        clear(self._worth)
        if found:
            self._worth.addWidget(label("Worth asking, as it is now", "section"))
        for k, suggestion in enumerate(found):
            words = f"{suggestion.words}: {suggestion.now}"
            line = QWidget()
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 0, 0, 0)
            row.addWidget(label(words, wrap=True), 1)
            button = QPushButton("Ask")
            button.setObjectName(f"worth_{k}")
            button.setAccessibleName(f"ask: {words}")
            button.setProperty("tight", True)
            button.setToolTip("Asks that it stays so; change the bound afterwards")
            # A click must leave the keys to the stage: Space plays, it does not press again.
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, s=suggestion: self._ask(s))
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
            self._worth.addWidget(line)

    def _ask(self, suggestion: Suggestion) -> None:
        self._workbench.do_once(Ask(suggestion.requirement))
        self._workbench.select(Selection("finding", suggestion.requirement.id))

    def _show_off(self) -> None:
        """What is not asked for the moment, each with the way back."""
        off = [r for r in self._workbench.session.document.requirements if r.off]
        if [r.id for r in off] == self._shown_off:
            return
        self._shown_off = [r.id for r in off]
        clear(self._off)
        for requirement in off:
            line = QWidget()
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 2, 0, 2)
            row.addWidget(label(f"{requirement.title}: not asked", "quiet", wrap=True), 1)
            again = QPushButton("Ask again")
            again.setObjectName(f"ask_again_{requirement.id}")
            again.clicked.connect(lambda _=False, name=requirement.id: self._ask_again(name))
            row.addWidget(again)
            self._off.addWidget(line)

    def _ask_again(self, name: str) -> None:
        if any(r.id == name for r in self._workbench.session.document.requirements):
            self._workbench.do_once(SetRequirement(name, "off", False))

    def _repaint_rows(self) -> None:
        for row in self._rows.values():
            row.update()
