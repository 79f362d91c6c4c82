"""Belts and chains in the Drive drawer: those laid, and wheels to lay one round."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout

from anakinema.authoring import belt, turning_joints
from anakinema.document import model
from anakinema.errors import AnakinemaError
from anakinema.ui.drawers.listing import Listing, Maker
from anakinema.ui.fields import choice_box, fill_choice, label, row
from anakinema.ui.inspector.form import FIELD
from anakinema.ui.workbench import Workbench


class BeltList(Listing[model.Belt]):
    """Each loop with its wheels and length; below them a form that lays one."""

    name = "loops"
    kind = "belt"
    title = "Belts and chains"

    def __init__(self, workbench: Workbench) -> None:
        super().__init__(workbench, BeltMaker(workbench))

    def kept(self, document: model.Document) -> tuple[model.Belt, ...]:
        return document.belts


class BeltMaker(Maker):
    """Wheels in the order the belt meets them; says what does not fit before it is laid."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._wheels: list[tuple[str, bool]] = []
        self._joints: tuple[tuple[str, str], ...] = ()
        self._joint = choice_box("loop_joint", "wheel on joint")
        self._kind = choice_box("loop_kind", "kind")
        for kind in ("belt", "chain"):
            self._kind.addItem(kind, kind)
        self._back = QCheckBox("with its back (idler)")
        self._back.setObjectName("loop_back")
        self._words = label("", "quiet", wrap=True)
        self._words.setObjectName("loop_words")
        self._add, self._make, self._clear = (
            QPushButton(words) for words in ("Add wheel", "Lay it", "Clear")
        )
        for button, name in (
            (self._add, "loop_add"),
            (self._make, "loop_make"),
            (self._clear, "loop_clear"),
        ):
            button.setObjectName(name)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(row("a", self._kind, width=FIELD))
        layout.addWidget(row("over", self._joint, width=FIELD))
        layout.addWidget(self._back)
        line = QHBoxLayout()
        for button in (self._add, self._make, self._clear):
            line.addWidget(button)
        line.addStretch(1)
        layout.addLayout(line)
        layout.addWidget(self._words)
        self._add.clicked.connect(self._take)
        self._clear.clicked.connect(self._empty)
        self._make.clicked.connect(self._lay)
        self._kind.activated.connect(lambda _: self._try())

    def offer(self) -> None:
        """The scene has changed: list its joints, and forget wheels that are gone."""
        scene = self._workbench.scene
        joints = turning_joints(scene) if scene is not None else ()
        self.setVisible(len(joints) > 1)
        if joints != self._joints:
            self._joints = joints
            fill_choice(self._joint, joints, 0)
            known = {joint for joint, _ in joints}
            self._wheels = [wheel for wheel in self._wheels if wheel[0] in known]
        self._try()

    def _take(self) -> None:
        self._wheels.append((str(self._joint.currentData()), self._back.isChecked()))
        self._back.setChecked(False)
        self._try()

    def _empty(self) -> None:
        self._wheels = []
        self._try()

    def _stated(self) -> str:
        titles = dict(self._joints)
        return " → ".join(
            f"{titles.get(joint, joint)}{' (back)' if back else ''}" for joint, back in self._wheels
        )

    def _try(self) -> None:
        """Say what would come of it."""
        scene = self._workbench.scene
        self._make.setEnabled(False)
        if scene is None or len(self._wheels) < 2:
            start = self._stated() or "Add wheels in the order the belt meets them, anticlockwise."
            self._words.setText(start)
            return
        try:
            draft = belt(scene, self._wheels, self._kind.currentData())
        except AnakinemaError as error:
            self._words.setText(f"{self._stated()}\n{error.advice}")
            return
        self._make.setEnabled(True)
        self._words.setText("\n".join((self._stated(), *(f"◆ {line}" for line in draft.words))))

    def _lay(self) -> None:
        scene = self._workbench.drawn_scene()
        if scene is None:
            return
        try:
            draft = belt(scene, self._wheels, self._kind.currentData())
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._wheels = []
        self._workbench.do_once(draft.edit)
