"""Why a value is refused, said right at its field."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QLabel, QLineEdit


class Reason(QLabel):
    """Why a value is refused, right below its field, over whatever is there."""

    def __init__(self, field: QLineEdit) -> None:
        super().__init__(field.window())
        self.setObjectName("refusal")
        self.setProperty("refusal", True)
        self.setWordWrap(True)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._field = field
        field.destroyed.connect(self.deleteLater)
        self.hide()

    def say(self, words: str) -> None:
        """Show a reason, or nothing."""
        self.setText(words)
        self.setVisible(bool(words) and self._field.isVisible())
        if not words:
            return
        window = self._field.window()
        # One at a time: that of the field that was typed in last.
        for other in window.findChildren(Reason):
            if other is not self:
                other.hide()
        wide = min(300, window.width() - 20)
        self.setFixedWidth(wide)
        self.adjustSize()
        corner = self._field.mapTo(window, QPoint(0, self._field.height() + 2))
        left = min(corner.x(), window.width() - wide - 8)
        self.move(max(left, 4), min(corner.y(), window.height() - self.height() - 4))
        self.raise_()
