"""The sentence in which a requirement is asked, filled by what is selected."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from anakinema.authoring import (
    AskingWish,
    Present,
    asked_dimension,
    at_values,
    filled,
    first_wish,
    is_typed,
    joiner,
    others,
    present,
    questions,
    requirement_of,
    shown_measure,
    spans,
    subjects,
    usual_bound,
    wish_of,
)
from anakinema.document import Resolved
from anakinema.edits import Ask, ReplaceRequirement
from anakinema.errors import AnakinemaError
from anakinema.ui.fields import QuantityField, WordBox, fill_choice, label
from anakinema.ui.guarded import guarded
from anakinema.ui.workbench import Selection, Workbench
from anakinema.ui.worker import Worker

VALUE, AT = (118, 92), (84, 62)
"""Pixels of both numbers, and where there is less room."""
TIGHT = 620
"""Pixels of the line below which there is."""
FORMULA = 170
"""Pixels for a formula that is typed."""
BOUNDS = (("least", "stays at least"), ("greatest", "stays at most"))


@guarded
class AskingLine(QWidget):
    """What is asked, with its present answer beside it; Enter or *Ask* makes a requirement of it.

    While a requirement is edited its own sentence stands here.
    """

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("asking")
        self.setAccessibleName("ask a requirement")
        self._bench = workbench
        self.wish = AskingWish("gap")
        self.now: Present | None = None
        """The present answer, once it is known."""
        self._edited: str | None = None
        self._is_chosen = False
        """Whether the user has asked for something; else what is worth asking stands here."""
        self._waits = False
        """Whether it is asked as soon as the present answer is known."""
        self._worker = Worker("asking", self)
        self._worker.answered.connect(self._answered)
        self._worker.broke.connect(lambda _, error: workbench.broke.emit(error))
        self._kind = self._box("ask_kind", "kind of question")
        self._first = self._box("ask_first", "what it is about")
        self._and = label("and", "quiet")
        self._second = self._box("ask_second", "second body")
        self._when = self._box("ask_when", "over which part of the motion")
        self._at = QuantityField("", "ask_at")
        self._at.setAccessibleName("value of the joint")
        self._at.changing.connect(self._moved)
        self._at.returnPressed.connect(self.commit)
        self._bound = self._box("ask_bound", "bound")
        for key, words in BOUNDS:
            self._bound.addItem(words, key)
        self._value = QuantityField("", "ask_value")
        self._value.setAccessibleName("bound value")
        self._value.changing.connect(self._typed)
        self._value.returnPressed.connect(self.commit)
        self._now = label("", "quiet")
        self._now.setObjectName("ask_now")
        self._now.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._ask = QPushButton("Ask")
        self._ask.setObjectName("ask_commit")
        self._ask.clicked.connect(self.commit)
        self._keep = QPushButton("Show")
        self._keep.setObjectName("ask_show")
        self._keep.setToolTip("Keep it as a curve of the strip, without asking anything of it")
        self._keep.clicked.connect(self.keep)
        self._stop = QPushButton("Leave")
        self._stop.setObjectName("ask_leave")
        self._stop.clicked.connect(lambda: self.edit(None))
        for button in (self._ask, self._stop, self._keep):
            # A click must leave the keys to the stage: Space plays, it does not press again.
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._end = QWidget()
        """Takes the rest of the first row where the sentence goes on in a second."""
        self._upper, self._lower = QHBoxLayout(), QHBoxLayout()
        rows = QVBoxLayout(self)
        rows.setContentsMargins(12, 3, 8, 3)
        rows.setSpacing(3)
        for row in (self._upper, self._lower):
            row.setSpacing(5)
            rows.addLayout(row)
        for widget in (self._kind, self._first, self._and, self._second):
            self._upper.addWidget(widget)
        self.fold(False)
        self._fit(False)
        for box in (self._kind, self._first, self._second, self._when, self._bound):
            box.activated.connect(lambda _: self._chosen())
        workbench.selection_changed.connect(self._selected)
        workbench.evaluated.connect(self._evaluated)
        workbench.document_changed.connect(self._forget)
        workbench.station_changed.connect(lambda _: self._arrived())
        self._show()

    def _box(self, name: str, words: str) -> QComboBox:
        box = WordBox()
        box.setObjectName(name)
        box.setAccessibleName(words)
        return box

    def fold(self, narrow: bool) -> None:
        """The second half of the sentence in a row of its own, or behind the first."""
        into = self._lower if narrow else self._upper
        self._upper.addWidget(self._end, int(narrow))
        self._end.setVisible(narrow)
        # Where there is room for it all the moment stands with what it is asked of.
        moment = (self._when, self._at)
        for widget in (*(moment if not narrow else ()), self._bound, self._value):
            into.addWidget(widget)
        for widget in moment if narrow else ():
            into.addWidget(widget)
        into.addWidget(self._now, 1)
        into.addWidget(self._stop)
        into.addWidget(self._keep)
        into.addWidget(self._ask)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit(event.size().width() < TIGHT)

    def _fit(self, tight: bool) -> None:
        """Shorter words and narrower numbers where there is little room."""
        for k, (_, words) in enumerate(BOUNDS):
            self._bound.setItemText(k, words.removeprefix("stays ") if tight else words)
        self._value.setFixedWidth(VALUE[tight])
        self._at.setFixedWidth(AT[tight])

    def stop(self) -> None:
        """End the thread; call before the application goes."""
        self._worker.stop()

    @property
    def _resolved(self) -> Resolved | None:
        scene = self._bench.scene
        return scene.resolved if scene is not None else None

    def edit(self, requirement_id: str | None) -> None:
        """Put a requirement's own sentence here, to be changed; None begins a new one."""
        resolved = self._resolved
        self._edited = None
        if requirement_id is not None and resolved is not None:
            asked = {r.id: r for r in self._bench.session.document.requirements}
            wish = wish_of(resolved, asked[requirement_id])
            if wish is not None:
                self._edited, self.wish, self._is_chosen = requirement_id, wish, True
                self._value.setText(wish.value)
        if self._edited is None:
            self._is_chosen = False
            self.wish = replace(self.wish, value="")
            self._value.clear()
        self._show()

    def _forget(self) -> None:
        known = {r.id for r in self._bench.session.document.requirements}
        if self._edited is not None and self._edited not in known:
            self.edit(None)

    def _selected(self) -> None:
        resolved, selection = self._resolved, self._bench.selection
        if resolved is None or self._edited is not None or self._bench.station != "Check":
            return
        joint = selection.id if selection.kind == "joint" else ""
        measure = selection.id if selection.kind == "measure" else ""
        wish = filled(resolved, self.wish, selection.bodies, joint, measure)
        if wish != self.wish:
            self._is_chosen = True
            self.wish = wish
            self._value.clear()
            self._show()

    def _chosen(self) -> None:
        self._is_chosen = True
        kind = str(self._kind.currentData())
        first = str(self._first.currentData() or "") if kind == self.wish.kind else ""
        second = self._second_chosen() if kind == self.wish.kind else ""
        joint = str(self._when.currentData() or "") if kind == self.wish.kind else ""
        bound = str(self._bound.currentData())
        if kind != self.wish.kind:
            resolved = self._resolved
            bound = usual_bound(kind)
            choices = subjects(resolved, kind) if resolved is not None else ()
            kept = [key for key, _ in choices if key == self.wish.first]
            first = kept[0] if kept else choices[0][0] if choices else ""
            self._value.clear()
        at = self._at.text() if joint == self.wish.joint else ""
        self.wish = AskingWish(kind, first, second, bound, self._value.text(), joint, at)
        self._show()

    def _second_chosen(self) -> str:
        """What stands in the second box: chosen, or typed where it is a formula."""
        if is_typed(self.wish.kind):
            return self._second.currentText().strip()
        return str(self._second.currentData() or "")

    def _let_type(self, on: bool) -> None:
        """Whether the second box takes a formula."""
        if on == self._second.isEditable():
            return
        self._second.setEditable(on)
        line = self._second.lineEdit()
        if on and line is not None:
            self._second.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
            self._second.setMinimumWidth(FORMULA)
            line.setObjectName("ask_formula")
            line.setAccessibleName("formula of kept curves")
            line.editingFinished.connect(self._chosen)
        else:
            self._second.setMinimumWidth(0)

    def _moved(self, text: str) -> None:
        """Another value of the joint at which it is asked."""
        self._is_chosen = True
        self.wish = replace(self.wish, at=text)
        self._ask_now()

    def _typed(self, text: str) -> None:
        self._is_chosen = True
        self.wish = replace(self.wish, value=text)

    def _show(self) -> None:
        """The sentence as it is wished, and its answer asked for."""
        resolved = self._resolved
        asked = questions(resolved) if resolved is not None else ()
        widgets = (self._kind, self._first, self._second, self._bound, self._value, self._ask)
        for widget in (*widgets, self._keep):
            widget.setEnabled(bool(asked))
        self._stop.setVisible(self._edited is not None)
        self._ask.setText("Change" if self._edited is not None else "Ask")
        if resolved is None or not asked:
            self._now.setText("Nothing to ask yet: build something that moves.")
            return
        if not self._is_chosen:
            self.wish = first_wish(resolved)
        if self.wish.kind not in dict(asked):
            self.wish = AskingWish(asked[0][0])
        choices = subjects(resolved, self.wish.kind)
        if self.wish.first not in dict(choices):
            self.wish = replace(self.wish, first=choices[0][0], second="")
        second = others(resolved, self.wish)
        typed = is_typed(self.wish.kind) and bool(self.wish.second)
        if second and not typed and self.wish.second not in dict(second):
            self.wish = replace(self.wish, second=second[0][0])
        moments = at_values(resolved, self.wish.kind)
        whole = ("", "all along")
        parts = spans(resolved, self.wish.kind)
        when = (whole, *((key, f"where {words} is") for key, words in moments), *parts)
        if self.wish.joint not in dict(when):
            self.wish = replace(self.wish, joint="", at="")
        self._let_type(is_typed(self.wish.kind))
        for box, entries, key in (
            (self._when, when, self.wish.joint),
            (self._kind, asked, self.wish.kind),
            (self._first, choices, self.wish.first),
            (self._second, second, self.wish.second),
        ):
            fill_choice(box, entries, 0)
            box.setCurrentIndex(max(0, box.findData(key)))
            box.setToolTip(box.currentText())
            box.updateGeometry()
        self._bound.setCurrentIndex(max(0, self._bound.findData(self.wish.bound)))
        self._and.setText(joiner(self.wish.kind))
        self._and.setVisible(bool(second and joiner(self.wish.kind)))
        self._second.setVisible(bool(second))
        self._when.setVisible(bool(moments or parts))
        self._at.setVisible(bool(self.wish.joint) and self.wish.poses is None)
        if not self._at.hasFocus():
            self._at.setText(self.wish.at)
        self._ask_now()

    def _arrived(self) -> None:
        """The station has changed: what was selected on the way fills the sentence."""
        self._waits = False
        if len(self._bench.selection.bodies) != 1:
            self._selected()
        self._evaluated()

    def _evaluated(self) -> None:
        if self._bench.station == "Check":
            self._show()

    def _ask_now(self) -> None:
        """Ask for the present answer, beside the interface."""
        evaluation, wish = self._bench.evaluation, self.wish
        self.now = None
        self._now.setText("")
        if evaluation is None or self._bench.station != "Check":
            return

        def task() -> Iterator[object]:
            try:
                yield present(evaluation, wish)
            except AnakinemaError as error:
                yield error
            except KeyError:
                return

        self._worker.request(task)

    def _answered(self, number: int, answer: object) -> None:
        if number == self._worker.newest and isinstance(answer, AnakinemaError):
            self._now.setText(answer.what)
            self._now.setToolTip(str(answer))
        if number != self._worker.newest or not isinstance(answer, Present):
            return
        self.now = answer
        self._now.setText(f"now {answer.words}")
        self._now.setToolTip(f"Over the whole motion it is {answer.words} now")
        resolved = self._resolved
        if resolved is None or self.wish.first not in dict(subjects(resolved, self.wish.kind)):
            # What was asked about has gone meanwhile.
            return
        if answer.value is not None:
            dimension = asked_dimension(resolved, self.wish)
            shown = answer.value / resolved.units.factor(dimension)
            unit = resolved.units.name(dimension)
            text = f"{shown:.3g}" if abs(shown) < 1000 else f"{shown:.0f}"
            self._value.setPlaceholderText(f"{text} {unit}".strip())
        if self._waits:
            self.commit()

    def keep(self) -> None:
        """Show what the sentence is about on the strip."""
        resolved = self._resolved
        if resolved is None:
            return
        try:
            edit = shown_measure(resolved, self.wish)
        except AnakinemaError as error:
            self._bench.report(error)
            return
        self._bench.do_once(edit)

    def commit(self) -> None:
        """Make a requirement of the sentence; what is missing or wrong is said at its value."""
        resolved = self._resolved
        if resolved is None:
            return
        self._waits = self.now is None and not self.wish.value.strip()
        if self._waits:
            return
        try:
            made = requirement_of(resolved, self.wish, self.now.value if self.now else None)
        except AnakinemaError as error:
            self._value.set_wrong(error.advice)
            self._bench.report(error)
            return
        self._value.set_wrong("")
        if self._edited is not None:
            old = next(r for r in self._bench.session.document.requirements if r.id == self._edited)
            same = made.measure == old.measure and made.reduce == old.reduce
            kept = {"id": old.id, "comfort": old.comfort if same else None, "off": old.off}
            if same:
                kept["name"] = old.name
            done = self._bench.do(ReplaceRequirement(made.model_copy(update=kept)))
            made = made.model_copy(update={"id": old.id})
        else:
            done = self._bench.do(Ask(made))
        self._bench.finish_gesture()
        if done:
            self.edit(None)
            self._bench.select(Selection("finding", made.id))
