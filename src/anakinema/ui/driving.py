"""The row above the stage at Drive: what drives, and what else could."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from anakinema.authoring import drive
from anakinema.document import Going, spec_of
from anakinema.edits import Edit, Remove
from anakinema.ui.fields import WordBox, label
from anakinema.ui.workbench import Selection, Workbench


class DrivingLine(QWidget):
    """Choose a joint here or on the stage; joints that hang on what stands come first."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("driving")
        self._bench = workbench
        self._words = label("", "quiet")
        self._words.setObjectName("driving_words")
        self._joint = WordBox()
        self._joint.setObjectName("drive_joint")
        self._joint.setAccessibleName("joint to drive")
        self._joint.setMinimumWidth(120)
        self._joint.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._drive = QPushButton("Drive it")
        self._drive.setObjectName("drive_it")
        self._stop = QPushButton("Drive it no more")
        self._stop.setObjectName("drive_no_more")
        for button in (self._drive, self._stop):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 10, 4)
        row.addWidget(self._words)
        row.addWidget(self._joint)
        row.addWidget(self._drive)
        row.addWidget(self._stop)
        row.addStretch(1)
        self._joint.activated.connect(lambda _: self._choose())
        self._drive.clicked.connect(self._do_drive)
        self._stop.clicked.connect(self._do_stop)
        workbench.scene_changed.connect(self._show)
        workbench.document_changed.connect(self._show)
        workbench.selection_changed.connect(self._selected)
        self._show()

    def _joints(self) -> list[tuple[str, str]]:
        scene = self._bench.scene
        if scene is None:
            return []
        document = scene.resolved.document
        fixed = {body.id for body in document.bodies if body.fixed}
        moving = [joint for joint in document.joints if spec_of(joint.kind).moves]
        moving.sort(key=lambda j: not {j.first.body, j.second.body} & fixed)
        return [(joint.id, joint.title) for joint in moving]

    def _driver(self, joint: str) -> str | None:
        drivers = self._bench.session.document.program.drivers
        return next((driver.id for driver in drivers if driver.joint == joint), None)

    def _show(self) -> None:
        chosen, joints = self._joint.currentData(), self._joints()
        self._joint.clear()
        for key, words in joints:
            driven = self._driver(key) is not None
            self._joint.addItem(f"{words}, driven" if driven else words, key)
        self._joint.setCurrentIndex(max(0, self._joint.findData(chosen)))
        self._joint.updateGeometry()
        drivers = self._bench.session.document.program.drivers
        names = " and ".join(driver.title for driver in drivers)
        self._words.setText(f"Driven: {names}." if drivers else "Nothing is driven yet. Choose")
        self._show_buttons()

    def _show_buttons(self) -> None:
        joint = self._joint.currentData()
        driven = joint is not None and self._driver(str(joint)) is not None
        self._drive.setVisible(not driven)
        self._drive.setEnabled(joint is not None)
        self._stop.setVisible(driven)

    def _selected(self) -> None:
        selection = self._bench.selection
        if selection.kind == "joint" and self._joint.findData(selection.id) >= 0:
            self._joint.setCurrentIndex(self._joint.findData(selection.id))
            self._show_buttons()

    def _choose(self) -> None:
        self._bench.select(Selection("joint", str(self._joint.currentData())))
        self._show_buttons()

    def _do(self, edit: Edit | None) -> None:
        if edit is not None:
            self._bench.do_once(edit)

    def _do_drive(self) -> None:
        scene, joint = self._bench.drawn_scene(), self._joint.currentData()
        if scene is not None and joint is not None:
            self._do(drive(scene, str(joint)))

    def _do_stop(self) -> None:
        driver = self._driver(str(self._joint.currentData()))
        if driver is not None:
            self._do(Remove(Going(drivers=frozenset((driver,))), "Drive no more"))
