"""Pages that are put together when they are first shown: a window starts with few of them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from PySide6.QtWidgets import QVBoxLayout, QWidget

W = TypeVar("W", bound=QWidget)


class Later(QWidget, Generic[W]):
    """Stands where a page will be, and makes it once it is shown or asked for."""

    def __init__(self, make: Callable[[], W]) -> None:
        super().__init__()
        self._make = make
        self.made: W | None = None
        """The page, None while nobody has wanted it."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)

    @property
    def page(self) -> W:
        """The page itself."""
        if self.made is None:
            self.made = self._make()
            layout = self.layout()
            assert layout is not None
            layout.addWidget(self.made)
        return self.made

    def showEvent(self, event: Any) -> None:
        # Before the event goes on, so that nothing is painted without it.
        page = self.page
        super().showEvent(event)
        page.show()
