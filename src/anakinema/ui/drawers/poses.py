"""The poses that are kept: a click goes there and shows what can be done with one."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.ui.drawers.listing import two_lines
from anakinema.ui.fields import clear, label
from anakinema.ui.posing import KeptPoses
from anakinema.ui.workbench import Selection, Workbench


class PoseList(QWidget):
    """Names, what drives each where, and what has come to stand otherwise."""

    def __init__(self, workbench: Workbench, poses: KeptPoses) -> None:
        super().__init__()
        self._bench, self._poses = workbench, poses
        self._shown: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 8)
        layout.setSpacing(4)
        layout.addWidget(label("Kept poses", "section"))
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        layout.addLayout(self._rows)
        keep = QPushButton("Keep this pose")
        keep.setObjectName("pose_keep")
        keep.setProperty("tight", True)
        keep.setToolTip("The pose on show, to come back to, to start at, to draw or to check at")
        # A click must leave the keys to the stage: Space plays, it does not press again.
        keep.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        keep.clicked.connect(poses.keep)
        layout.addWidget(keep, 0, Qt.AlignmentFlag.AlignLeft)
        workbench.document_changed.connect(self._show)
        workbench.scene_changed.connect(self._show)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show()

    def _show(self) -> None:
        if not self.isVisible():
            return
        lines = [(pose, *self._words(pose)) for pose in self._bench.session.document.poses]
        if lines == self._shown:
            return
        self._shown = lines
        clear(self._rows)
        if not lines:
            self._rows.addWidget(
                label(
                    "A pose worth coming back to, such as closed or at the fork.",
                    "quiet",
                    wrap=True,
                )
            )
        for pose, words, is_sound in lines:
            self._rows.addWidget(self._row(pose, words, is_sound))

    def _words(self, pose: model.KeptPose) -> tuple[str, bool]:
        found = self._poses.standing(pose)
        if found is None:
            return "not known while the document is faulty", False
        if found.reason:
            return found.reason, False
        return ", ".join(f"{title} {value}" for title, value in found.values), True

    def _row(self, pose: model.KeptPose, words: str, is_sound: bool) -> QPushButton:
        title = f"{pose.title} (ghost)" if pose.ghost else pose.title
        button = two_lines(
            f"pose_{pose.id}",
            f"Go to {pose.title}: {words}",
            title,
            words,
            "quiet" if is_sound else "warn",
        )
        button.clicked.connect(lambda _=False, name=pose.id: self._go(name))
        return button

    def _go(self, name: str) -> None:
        self._bench.select(Selection("pose", name))
        self._poses.go(name)
