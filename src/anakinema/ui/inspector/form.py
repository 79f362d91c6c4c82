"""Rows that the inspector is made of, each bound to the document and to an edit."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget
from shiboken6 import isValid

from anakinema.edits import Edit, made
from anakinema.errors import AnakinemaError
from anakinema.expressions import completed
from anakinema.ui.fields import QuantityField, choice_box, label, live_field, row
from anakinema.ui.guarded import guarded
from anakinema.ui.workbench import Workbench
from anakinema.units import UnitSystem

FIELD = 132
"""Width of fields, px, so that they line up."""
ROOM = 238
"""px that a line of buttons may take."""
GAP = 4


@guarded
class TextField(QLineEdit):
    """A name or note: goes out when finished; Esc puts back what stood there."""

    def __init__(self, text: str, name: str, change: Callable[[str], None]) -> None:
        super().__init__(text)
        self.setObjectName(name)
        self.setAccessibleName(name.replace("_", " "))
        self._before = text
        self._change = change
        self.setCursorPosition(0)
        self.editingFinished.connect(self._finish)

    def show_text(self, text: str) -> None:
        """Show the document's text unless the user is typing."""
        self._before = text
        if not self.hasFocus() and text != self.text():
            self.setText(text)

    def _finish(self) -> None:
        if self.text() != self._before:
            self._before = self.text()
            self._change(self.text())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._before)
            self.clearFocus()
        else:
            super().keyPressEvent(event)


class Form:
    """Adds rows to a layout; `refresh` shows the document's present values in all of them."""

    def __init__(
        self,
        workbench: Workbench,
        layout: QVBoxLayout,
        do: Callable[[Edit], object] | None = None,
        finish: Callable[[], None] | None = None,
        *,
        settles: bool = True,
    ) -> None:
        self.workbench = workbench
        self.layout = layout
        self.do = do or workbench.do
        self.finish = finish or workbench.finish_gesture
        self._settles = settles
        """Whether a value is taken back if the document cannot be read with it; not where several
        numbers only fit together."""
        self._refreshers: list[Callable[[], None]] = []
        self._live: list[Callable[[], None]] = []

    def refresh(self) -> None:
        """The document has changed; rows of something that is gone stay as they are until the
        panel is built anew."""
        for show in self._refreshers:
            _again(show)

    def show_live(self) -> None:
        """Results or the playhead have changed."""
        for show in self._live:
            _again(show)

    def heading(self, title: str, below: str = "") -> None:
        """The title of what is shown, and a quiet line."""
        self.layout.addWidget(label(title, "heading", wrap=True))
        if below:
            self.layout.addWidget(label(below, "quiet", wrap=True))
        self.layout.addSpacing(8)

    def section(self, words: str) -> None:
        """A small title."""
        self.layout.addSpacing(6)
        self.layout.addWidget(label(words, "section"))

    def quiet(self, words: str) -> None:
        """A line that explains."""
        self.layout.addWidget(label(words, "quiet", wrap=True))

    def quantity(
        self,
        words: str,
        name: str,
        source: Callable[[], str],
        edit: Callable[[str], Edit],
        note: str = "",
    ) -> QuantityField:
        """A number or expression, edited live."""
        bench = self.workbench
        like = [source()]

        def change(text: str) -> None:
            chosen = bench.session.document.units
            stated = completed(text, like[0], UnitSystem(chosen.length, chosen.angle))
            refusal = self._tried(lambda: edit(stated), words)
            field.set_wrong("" if refusal is None else refusal.advice)

        def show() -> None:
            like[0] = source()
            field.show_source(like[0])

        def refused(why: str) -> None:
            if isValid(field):
                _again(show)
                field.refuse(why)

        def finish() -> None:
            self.finish()
            if self._settles:
                bench.settle_value(refused)
            _again(show)

        field = live_field(source(), name, change, finish, bench.cancel_gesture)
        field.complete_from(bench.known_names)
        self._refreshers.append(lambda: field.show_source(source()))
        self.layout.addWidget(row(words, field, width=FIELD, note=note))
        return field

    def quantities(
        self,
        fields: Iterable[str | tuple[str, str]],
        prefix: str,
        source: Callable[[str], str],
        edit: Callable[[str, str], Edit],
    ) -> None:
        """Numbers of one thing by their fields' names, or (name, words): source and edit get it."""
        for each in fields:
            name, words = (each, each.replace("_", " ")) if isinstance(each, str) else each
            self.quantity(words, f"{prefix}_{name}", partial(source, name), partial(edit, name))

    def text(
        self, words: str, name: str, source: Callable[[], str], edit: Callable[[str], Edit]
    ) -> None:
        """A name or note."""
        field = TextField(source(), name, lambda text: self.once(lambda: edit(text), words))
        self._refreshers.append(lambda: field.show_text(source()))
        self.layout.addWidget(row(words, field, width=FIELD))

    def choice(
        self,
        words: str,
        name: str,
        options: Sequence[tuple[str, str]],
        source: Callable[[], str],
        edit: Callable[[str], Edit | None],
        width: int = FIELD,
    ) -> None:
        """One of several (key, words)."""
        box = choice_box(name, words)
        for key, shown in options:
            box.addItem(shown, key)

        def show() -> None:
            box.setCurrentIndex(max(0, box.findData(source())))

        def chosen() -> None:
            self.once(lambda: edit(str(box.currentData())), words)
            _again(show)

        show()
        box.activated.connect(lambda _: chosen())
        self._refreshers.append(show)
        self.layout.addWidget(row(words, box, width=width))

    def check(
        self, words: str, name: str, source: Callable[[], bool], edit: Callable[[bool], Edit]
    ) -> None:
        """On or off."""
        box = QCheckBox(words)
        box.setObjectName(name)
        box.setChecked(source())

        def show() -> None:
            if box.isChecked() != source():
                box.blockSignals(True)
                box.setChecked(source())
                box.blockSignals(False)

        def toggled(on: bool) -> None:
            self.once(lambda: edit(on), words)
            _again(show)

        box.toggled.connect(toggled)
        self._refreshers.append(show)
        self.layout.addWidget(box)

    def buttons(self, *entries: tuple[str, str, Callable[[], object]]) -> None:
        """Buttons (name, words, what they do) in as few lines as they fit into."""
        line, used = self._line(), 0
        for name, words, run in entries:
            button = QPushButton(words)
            button.setObjectName(name)
            # A click must leave the keys to the stage: Space plays, it does not press again.
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, r=run, w=words: self._pressed(r, w))
            width = button.sizeHint().width() + GAP
            if used and used + width > ROOM + GAP:
                line.addStretch(1)
                line, used = self._line(), 0
            used += width
            line.addWidget(button)
        line.addStretch(1)

    def _pressed(self, run: Callable[[], object], words: str) -> None:
        """Run what a button does; what cannot be is reported."""
        try:
            made(run, words)
        except AnakinemaError as error:
            self.workbench.report(error)

    def _line(self) -> QHBoxLayout:
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 2, 0, 2)
        line.setSpacing(GAP)
        self.layout.addWidget(holder)
        return line

    def live(self, words: str, value: Callable[[], str]) -> None:
        """A value that follows the results and the playhead."""
        shown = label("", "strong", wrap=True)
        shown.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        shown.setObjectName("live_" + words.lower().replace(", ", "_"))
        self.layout.addWidget(row(words, shown, width=FIELD))
        self._live.append(lambda: shown.setText(value()))

    def on_refresh(self, show: Callable[[], None]) -> None:
        """Call this as well when the document has changed."""
        self._refreshers.append(show)

    def on_live(self, show: Callable[[], None]) -> None:
        """Call this as well when results or the playhead change."""
        self._live.append(show)

    def once(self, edit: Edit | Callable[[], Edit | None], words: str = "edit") -> None:
        """An edit that is a step of its own; what cannot be is reported."""
        self._tried(edit if callable(edit) else lambda: edit, words)
        self.finish()

    def _tried(self, make: Callable[[], Edit | None], words: str) -> AnakinemaError | None:
        """Make an edit and do it; why not, which is reported as well, if it cannot be."""
        bench = self.workbench
        try:
            edit = made(make, words)
        except AnakinemaError as error:
            bench.report(error)
            return error
        if edit is None or self.do(edit) is not False:
            return None
        return bench.trouble if isinstance(bench.trouble, AnakinemaError) else None


def _again(show: Callable[[], None]) -> None:
    """Show what there is now; what is gone shows as it was until its form goes too."""
    with contextlib.suppress(KeyError, StopIteration):
        show()
