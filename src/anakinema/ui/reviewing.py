"""The review: the motion runs once before others, stops at all that matters and says what it is."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QElapsedTimer, QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QVBoxLayout, QWidget

from anakinema.findings import progress_words
from anakinema.session import Moment, Review
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.workbench import Selection, Workbench

FRAME = 16
"""ms between frames."""
WIDE = 560
MOST_LINES = 4
Fold = Callable[[frozenset[str] | None], frozenset[str]]


@guarded
class ReviewFilm(QWidget):
    """A card over the lower part of the stage. Any key or click ends it, Left and Right go to the
    moment before or after, Space holds it."""

    def __init__(self, workbench: Workbench, stage: QWidget, fold: Fold) -> None:
        super().__init__(stage)
        self.setObjectName("review_card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._bench, self._stage, self._fold = workbench, stage, fold
        self._review: Review | None = None
        self._shown: int | None = None
        self._seconds = 0.0
        self._held = False
        self._before: tuple[float, Selection, frozenset[str]] | None = None
        self._timer, self._clock = QTimer(self), QElapsedTimer()
        self._timer.timeout.connect(self._tick)
        self._count = label("", "quiet")
        self._count.setObjectName("review_count")
        self._words = label("", "heading", wrap=True)
        self._words.setObjectName("review_words")
        self._where = label("", "quiet", wrap=True)
        self._where.setObjectName("review_where")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 16, 12)
        for widget in (self._count, self._words, self._where):
            layout.addWidget(widget)
        self.hide()
        workbench.document_changed.connect(self.end)
        workbench.evaluated.connect(self.end)

    @property
    def runs(self) -> bool:
        """Whether it is under way, running or held."""
        return self._review is not None

    def turn(self) -> None:
        """Begin, or end it."""
        if self.runs:
            self.end()
            return
        bench = self._bench
        evaluation, playback = bench.evaluation, bench.playback
        if evaluation is None or playback is None or not playback.duration > 0:
            bench.report("There is no motion to review: give the program a stage first.")
            return
        bench.play(False)
        self._before = bench.progress, bench.selection, self._fold(None)
        self._review, self._shown, self._seconds, self._held = Review(evaluation), None, 0.0, False
        self._say(None)
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]
        self._clock.restart()
        self._timer.start(FRAME)

    def end(self) -> None:
        """As it was before it began."""
        if not self.runs or self._before is None:
            return
        self._timer.stop()
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        self._review = None
        progress, selection, folded = self._before
        self.hide()
        self._fold(folded)
        self._bench.select(selection)
        self._bench.move_playhead(progress)

    def _tick(self) -> None:
        self.advance(self._clock.restart() / 1000.0)

    def advance(self, seconds: float) -> None:
        """Watch on by so many seconds."""
        review = self._review
        if review is None or self._held:
            return
        self._seconds += seconds
        if self._seconds >= review.duration:
            self.end()
            return
        progress, moment = review.at(self._seconds)
        self._bench.move_playhead(progress)
        if moment is not None and moment != self._shown:
            self._say(moment)

    def _say(self, index: int | None) -> None:
        """Show what is to be said of a moment; it stays until the next."""
        review, evaluation = self._review, self._bench.evaluation
        assert review is not None and evaluation is not None
        self._shown = index
        count = len(review.moments)
        if index is None:
            self._count.setText(f"{count} moments. Any key ends it, Space holds, arrows go on.")
            self._words.setText(evaluation.document.name)
            self._where.setText("")
        else:
            moment = review.moments[index]
            self._count.setText(f"{index + 1} of {count}")
            self._words.setText("\n".join(_lines(moment)))
            self._where.setText(progress_words(evaluation, moment.progress))
            self._bench.select(
                Selection("finding", moment.finding) if moment.finding else Selection()
            )
        self._settle()

    def _settle(self) -> None:
        """Over the lower edge of the stage, in its middle."""
        wide = min(WIDE, self._stage.width() - 24)
        self.setFixedWidth(wide)
        self.show()
        self.adjustSize()
        self.move((self._stage.width() - wide) // 2, self._stage.height() - self.height() - 18)
        self.raise_()

    def hold_at(self, index: int) -> None:
        """Hold it at a moment."""
        self._held = True
        self._go_to(index)

    def _go(self, by: int) -> None:
        """To the moment before or after the one on show."""
        self._go_to((-1 if self._shown is None else self._shown) + by)

    def _go_to(self, wanted: int) -> None:
        review = self._review
        if review is None or not review.moments:
            return
        index = min(max(wanted, 0), len(review.moments) - 1)
        self._seconds = review.begin_of(index)
        self._bench.move_playhead(review.moments[index].progress)
        self._say(index)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not self.runs:
            return False
        if watched is self._stage and event.type() == QEvent.Type.Resize:
            self._settle()
        if event.type() in (QEvent.Type.ShortcutOverride, QEvent.Type.KeyPress):
            assert isinstance(event, QKeyEvent)
            if event.type() == QEvent.Type.ShortcutOverride:
                # Keys mean nothing else while it runs.
                event.accept()
                return True
            if isinstance(watched, QWidget):
                self._press(event.key())
            return True
        if event.type() == QEvent.Type.MouseButtonPress and isinstance(watched, QWidget):
            self.end()
            return True
        return False

    def _press(self, key: int) -> None:
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._go(1 if key == Qt.Key.Key_Right else -1)
        elif key == Qt.Key.Key_Space:
            self._held = not self._held
        elif key not in (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta):
            self.end()


def _lines(moment: Moment) -> list[str]:
    """What is said, as much as there is room for."""
    lines = list(moment.words[:MOST_LINES])
    if len(moment.words) > MOST_LINES:
        lines.append(f"and {len(moment.words) - MOST_LINES} more")
    return lines
