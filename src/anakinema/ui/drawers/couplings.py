"""Couplings in the Drive drawer: those there are with their sizes, and two joints to couple."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.authoring import CouplingOffer, couplable, couple, coupling_offers
from anakinema.document import coupling_spec, model
from anakinema.edits import made
from anakinema.errors import AnakinemaError
from anakinema.expressions import completed
from anakinema.ui.drawers.listing import Listing, Maker
from anakinema.ui.fields import QuantityField, choice_box, fill_choice, label, row, source_text
from anakinema.ui.inspector.form import FIELD
from anakinema.ui.workbench import Workbench
from anakinema.units import UnitSystem


class CouplingList(Listing[model.Coupling]):
    """Each coupling with its sizes; below them a form that couples two joints."""

    name = "couplings"
    kind = "coupling"
    title = "Couplings"
    above = 6

    def __init__(self, workbench: Workbench) -> None:
        super().__init__(workbench, CouplingMaker(workbench))

    def kept(self, document: model.Document) -> tuple[model.Coupling, ...]:
        return document.couplings


class CouplingMaker(Maker):
    """Two joints, how they are coupled and the sizes; says what does not fit before it is made."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._offers: tuple[CouplingOffer, ...] = ()
        self._joints: tuple[tuple[str, str], ...] = ()
        self._first, self._second, self._kind = (
            choice_box(f"couple_{name}", words)
            for name, words in (
                ("first", "first joint"),
                ("second", "second joint"),
                ("kind", "kind of coupling"),
            )
        )
        self._sizes = [QuantityField("", f"couple_{which}_size") for which in ("first", "second")]
        self._words = label("", "quiet", wrap=True)
        self._words.setObjectName("couple_words")
        self._make = QPushButton("Couple")
        self._make.setObjectName("couple_make")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(2)
        self._size_rows: list[QWidget] = []
        for words, box in (("Couple", self._first), ("with", self._second), ("by", self._kind)):
            layout.addWidget(row(words, box, width=FIELD))
        for words, field in zip(("first size", "second size"), self._sizes, strict=True):
            self._size_rows.append(row(words, field, width=FIELD))
            layout.addWidget(self._size_rows[-1])
            field.changing.connect(lambda _: self._try())
        layout.addWidget(self._words)
        line = QHBoxLayout()
        line.addWidget(self._make)
        line.addStretch(1)
        layout.addLayout(line)
        self._first.activated.connect(lambda _: self._pair())
        self._second.activated.connect(lambda _: self._pair())
        self._kind.activated.connect(lambda _: self._offer())
        self._make.clicked.connect(self._couple)

    def offer(self) -> None:
        """The scene has changed: list its joints, keep what was chosen, look again at it."""
        scene = self._workbench.scene
        joints = couplable(scene) if scene is not None else ()
        self.setVisible(len(joints) > 1)
        if joints == self._joints:
            self._try()
            return
        self._joints = joints
        for k, box in enumerate((self._first, self._second)):
            fill_choice(box, joints, k)
        self._pair()

    def _pair(self) -> None:
        scene = self._workbench.scene
        self._offers = ()
        if scene is not None and len(self._joints) > 1:
            self._offers = coupling_offers(
                scene, str(self._first.currentData()), str(self._second.currentData())
            )
        self._kind.clear()
        for offer in self._offers:
            self._kind.addItem(coupling_spec(offer.kind).words, offer.kind)
        self._offer()

    def _offer(self) -> None:
        index = self._kind.currentIndex()
        if 0 <= index < len(self._offers):
            offer = self._offers[index]
            for field, size in zip(self._sizes, (offer.first_size, offer.second_size), strict=True):
                field.show_source("" if size is None else source_text(size))
            self._size_rows[1].setVisible(offer.second_size is not None)
        self._try()

    def _draft(self):  # type: ignore[no-untyped-def]
        scene, index = self._workbench.scene, self._kind.currentIndex()
        if scene is None or not 0 <= index < len(self._offers):
            return None
        offer = self._offers[index]
        units = self._workbench.session.document.units
        one, two = (
            completed(
                field.whole.strip(), source_text(like or ""), UnitSystem(units.length, units.angle)
            )
            for field, like in zip(self._sizes, (offer.first_size, offer.second_size), strict=True)
        )
        return couple(
            scene,
            offer.kind,
            str(self._first.currentData()),
            str(self._second.currentData()),
            (one, None if offer.second_size is None else two),
        )

    def _try(self) -> None:
        """Say what would come of it."""
        if not self._offers:
            self._make.setEnabled(False)
            self._words.setText("Choose two joints that move." if self._joints else "")
            return
        try:
            draft = made(self._draft, "coupling")
        except AnakinemaError as error:
            self._make.setEnabled(False)
            self._words.setText(error.advice)
            return
        self._make.setEnabled(True)
        self._words.setText("\n".join(f"◆ {line}" for line in draft.words) if draft else "")

    def _couple(self) -> None:
        if self._workbench.drawn_scene() is None:
            return
        try:
            draft = made(self._draft, "coupling")
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        if draft is not None:
            self._workbench.do_once(draft.edit)
