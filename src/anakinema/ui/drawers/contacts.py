"""Contacts in the Drive drawer: those there are, and two bodies to let touch."""

from __future__ import annotations

from typing import cast

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout

from anakinema.authoring import ContactDraft, Scene, contact, touchable
from anakinema.document import contact_spec, kinds_of_contact, model
from anakinema.edits import made
from anakinema.errors import AnakinemaError
from anakinema.ui.drawers.listing import Listing, Maker
from anakinema.ui.fields import choice_box, fill_choice, label, row
from anakinema.ui.inspector.form import FIELD
from anakinema.ui.workbench import Workbench

ANY = "any other body"


class ContactList(Listing[model.Contact]):
    """Each contact with what it does; below them a form that lets two bodies touch."""

    name = "contacts"
    kind = "contact"
    title = "Contact"

    def __init__(self, workbench: Workbench) -> None:
        super().__init__(workbench, ContactMaker(workbench))

    def kept(self, document: model.Document) -> tuple[model.Contact, ...]:
        return document.contacts


class ContactMaker(Maker):
    """Two bodies and what happens where they meet; says what does not fit before it is made."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._bodies: tuple[tuple[str, str], ...] = ()
        self._first, self._kind, self._second = (
            choice_box(f"contact_{name}", words)
            for name, words in (
                ("first", "body"),
                ("kind", "what it does"),
                ("second", "other body"),
            )
        )
        for kind in kinds_of_contact(alone=False):
            self._kind.addItem(contact_spec(kind).words, kind)
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

    def offer(self) -> None:
        """The scene has changed: list its bodies, keep what was chosen, look again at it."""
        scene = self._workbench.scene
        bodies = touchable(scene) if scene is not None else ()
        self.setVisible(len(bodies) > 1)
        if bodies != self._bodies:
            self._bodies = bodies
            fill_choice(self._first, bodies, 0)
            fill_choice(self._second, (*bodies, ("", ANY)), 1)
        self._try()

    def _try(self) -> None:
        """Say what would come of it."""
        scene = self._workbench.scene
        keeps = contact_spec(self._chosen()[0]).keeps
        self._rolling.setVisible(keeps)
        same = self._first.currentData() == self._second.currentData()
        alone = keeps and not self._second.currentData()
        self._make.setEnabled(False)
        if scene is None or same or alone or len(self._bodies) < 2:
            self._words.setText("Choose two bodies." if len(self._bodies) > 1 else "")
            return
        try:
            draft = self._draft(scene)
        except AnakinemaError as error:
            self._words.setText(error.advice)
            return
        self._make.setEnabled(True)
        self._words.setText("\n".join(f"◆ {line}" for line in draft.words))

    def _draft(self, scene: Scene) -> ContactDraft:
        chosen, rolling = self._chosen(), self._rolling.isChecked()
        return made(lambda: contact(scene, *chosen, rolling=rolling), "contact")

    def _chosen(self) -> tuple[model.ContactKind, str, str | None]:
        kind = cast("model.ContactKind", self._kind.currentData())
        return kind, str(self._first.currentData()), str(self._second.currentData()) or None

    def _touch(self) -> None:
        scene = self._workbench.drawn_scene()
        if scene is None:
            return
        try:
            draft = self._draft(scene)
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._workbench.do_once(draft.edit)
