"""Contacts in the Drive drawer: those there are, and two bodies to let touch."""

from __future__ import annotations

from typing import cast

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.document.dependents import Going
from anakinema.edits.structure import Remove
from anakinema.edits.values import SetContact
from anakinema.errors import AnakinemaError
from anakinema.session import contact, touchable
from anakinema.ui.fields import choice_box, label, row
from anakinema.ui.inspector.form import FIELD, Form
from anakinema.ui.workbench import Workbench

KINDS: dict[model.ContactKind, str] = {
    "stop": "stops at", "push": "pushes", "keep": "stays in touch with",
}  # fmt: skip
ANY = "any other body"


class ContactList(QWidget):
    """Each contact with what it does; below them a form that lets two bodies touch."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("contacts")
        self._workbench = workbench
        self._shown: object = None
        self._form: Form | None = None
        self._rows = QWidget()
        self._maker = ContactMaker(workbench)
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(14, 10, 12, 0)
        self._layout.setSpacing(2)
        self._layout.addWidget(label("Contact", "section"))
        self._layout.addWidget(self._rows)
        self._layout.addWidget(self._maker)
        workbench.scene_changed.connect(self._show)
        workbench.document_changed.connect(self._refresh)

    def _refresh(self) -> None:
        ids = {c.id for c in self._workbench.session.document.contacts}
        if self._form is not None and ids >= {c.id for c in self._listed()}:
            self._form.refresh()

    def _listed(self) -> tuple[model.Contact, ...]:
        scene = self._workbench.scene
        return scene.resolved.source.contacts if scene is not None else ()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show()

    def _show(self) -> None:
        if not self.isVisible():
            return
        self._maker.offer_bodies()
        shape = tuple((c.id, c.second is None, c.title) for c in self._listed())
        if shape != self._shown:
            self._shown = shape
            self._build()
        self._refresh()

    def _build(self) -> None:
        rows = QWidget()
        layout = QVBoxLayout(rows)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        self._form = Form(self._workbench, layout)
        for each in self._listed():
            self._add(self._form, each)
        self._layout.replaceWidget(self._rows, rows)
        self._rows.hide()
        self._rows.deleteLater()
        self._rows = rows

    def _add(self, form: Form, listed: model.Contact) -> None:
        name = listed.id

        def now() -> model.Contact:
            return model.next_by_id(self._workbench.session.document.contacts, name)

        form.layout.addWidget(label(listed.title, "strong", wrap=True))
        kinds = [(k, w) for k, w in KINDS.items() if listed.second is not None or k != "keep"]
        form.choice("it", f"contact_kind_{name}", kinds, lambda: now().kind,
                    lambda kind: SetContact(name, "kind", kind))  # fmt: skip
        if listed.second is not None:
            form.check(
                "Rolls without slip (if it stays)", f"rolls_{name}", lambda: now().rolling,
                lambda on: SetContact(name, "rolling", on),
            )  # fmt: skip
        form.check("In force", f"contact_in_force_{name}", lambda: not now().off,
                   lambda on: SetContact(name, "off", not on))  # fmt: skip
        going = Remove(Going(contacts=frozenset((name,))), "Delete contact")
        form.buttons((f"drop_contact_{name}", "Delete contact", lambda: form.once(going)))


class ContactMaker(QWidget):
    """Two bodies and what happens where they meet; says what does not fit before it is made."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._bodies: tuple[tuple[str, str], ...] = ()
        self._first, self._kind, self._second = (
            choice_box(f"contact_{name}", words)
            for name, words in (("first", "body"), ("kind", "what it does"),
                                ("second", "other body"))
        )  # fmt: skip
        for kind, words in KINDS.items():
            self._kind.addItem(words, kind)
        self._rolling = QCheckBox("rolls without slip")
        self._rolling.setObjectName("contact_rolling")
        self._words = label("", "quiet", wrap=True)
        self._words.setObjectName("contact_words")
        self._make = QPushButton("Let them touch")
        self._make.setObjectName("contact_make")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(2)
        for words, box in (("Body", self._first), ("it", self._kind), ("the body", self._second)):
            layout.addWidget(row(words, box, width=FIELD))
            box.activated.connect(lambda _: self._try())
        layout.addWidget(self._rolling)
        layout.addWidget(self._words)
        line = QHBoxLayout()
        line.addWidget(self._make)
        line.addStretch(1)
        layout.addLayout(line)
        self._rolling.toggled.connect(lambda _: self._try())
        self._make.clicked.connect(self._touch)

    def offer_bodies(self) -> None:
        """The scene has changed: list its bodies, keep what was chosen, look again at it."""
        scene = self._workbench.scene
        bodies = touchable(scene) if scene is not None else ()
        self.setVisible(len(bodies) > 1)
        if bodies != self._bodies:
            self._bodies = bodies
            _fill(self._first, bodies, 0)
            _fill(self._second, (*bodies, ("", ANY)), 1)
        self._try()

    def _try(self) -> None:
        """Say what would come of it."""
        scene = self._workbench.scene
        self._rolling.setVisible(self._kind.currentData() == "keep")
        same = self._first.currentData() == self._second.currentData()
        alone = self._kind.currentData() == "keep" and not self._second.currentData()
        self._make.setEnabled(False)
        if scene is None or same or alone or len(self._bodies) < 2:
            self._words.setText("Choose two bodies." if len(self._bodies) > 1 else "")
            return
        try:
            draft = contact(scene, *self._chosen(), rolling=self._rolling.isChecked())
        except AnakinemaError as error:
            self._words.setText(f"{error.what[:1].upper()}{error.what[1:]} {error.remedy}")
            return
        self._make.setEnabled(True)
        self._words.setText("\n".join(f"◆ {line}" for line in draft.words))

    def _chosen(self) -> tuple[model.ContactKind, str, str | None]:
        kind = cast("model.ContactKind", self._kind.currentData())
        return kind, str(self._first.currentData()), str(self._second.currentData()) or None

    def _touch(self) -> None:
        scene = self._workbench.rest()
        if scene is None:
            return
        try:
            draft = contact(scene, *self._chosen(), rolling=self._rolling.isChecked())
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._workbench.do(draft.edit)
        self._workbench.finish_gesture()


def _fill(box: QComboBox, entries: tuple[tuple[str, str], ...], index: int) -> None:
    """Offer entries (key, words), keeping what was chosen."""
    chosen = box.currentData()
    box.clear()
    for key, words in entries:
        box.addItem(words, key)
    found = box.findData(chosen)
    box.setCurrentIndex(found if found >= 0 else min(index, len(entries) - 1))
