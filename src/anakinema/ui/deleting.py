"""Delete with a look at what goes with it; joints may be hung on another body at the same place."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtWidgets import QComboBox, QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.authoring import PlacedSnap
from anakinema.document.model import Document
from anakinema.ui.fields import label, row


class DeleteDialog(QDialog):
    """Names all that would go. For each joint that could hang elsewhere, a choice."""

    def __init__(
        self,
        titles: list[str],
        offers: Mapping[str, tuple[PlacedSnap, ...]],
        flat: Document,
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("delete_dialog")
        self.setWindowTitle("Delete")
        self._boxes: dict[str, QComboBox] = {}
        layout = QVBoxLayout(self)
        layout.setSpacing(6)
        words = label(f"This is deleted with it: {', '.join(titles)}.", wrap=True)
        words.setObjectName("delete_words")
        layout.addWidget(words)
        bodies = {body.id: body.title for body in flat.bodies}
        for joint in flat.joints:
            snaps = offers.get(joint.id, ())
            if not snaps:
                continue
            box = QComboBox()
            box.setObjectName(f"hang_{joint.id}")
            box.addItem("goes as well", None)
            for snap in snaps:
                box.addItem(f"hang on {bodies[snap.body]}", snap)
            self._boxes[joint.id] = box
            layout.addWidget(row(joint.title, box, width=190))
        ends = QHBoxLayout()
        ends.addStretch(1)
        go, keep = QPushButton("Delete"), QPushButton("Keep")
        go.setObjectName("delete_go")
        keep.setObjectName("delete_keep")
        ends.addWidget(go)
        ends.addWidget(keep)
        layout.addLayout(ends)
        go.clicked.connect(self.accept)
        keep.clicked.connect(self.reject)
        keep.setDefault(True)

    def hung(self) -> dict[str, PlacedSnap]:
        """Joints that are to hang on another body."""
        return {
            joint: box.currentData()
            for joint, box in self._boxes.items()
            if box.currentData() is not None
        }
