"""The guide in a window of its own: pages by task, searchable, offline."""

from __future__ import annotations

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QTextCursor
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from anakinema.resources import FOLDER, guide_pages
from anakinema.ui.theme import Theme


class Handbook(QDialog):
    """A list of pages, a search that keeps those which hold what is typed, and the page."""

    def __init__(self, page: str, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("handbook")
        self.setWindowTitle("The guide")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(860, 620)
        self._pages = {each.name: each for each in guide_pages()}
        self._search = QLineEdit()
        self._search.setObjectName("handbook_search")
        self._search.setAccessibleName("search the guide")
        self._search.setPlaceholderText("Search the guide")
        self._list = QListWidget()
        self._list.setObjectName("handbook_pages")
        self._list.setAccessibleName("pages")
        self._list.setFixedWidth(210)
        self._view = QTextBrowser()
        self._view.setObjectName("handbook_page")
        self._view.setOpenExternalLinks(False)
        self._view.setSearchPaths([str(FOLDER / "guide")])
        self._view.setAccessibleName("page")
        # Tables and links in the colours of the window.
        self._view.document().setDefaultStyleSheet(f"a {{ color: {theme.accent}; }}")
        left = QVBoxLayout()
        left.addWidget(self._search)
        left.addWidget(self._list)
        row = QHBoxLayout(self)
        row.addLayout(left)
        row.addWidget(self._view, 1)
        self._search.textChanged.connect(self._filter)
        self._list.currentItemChanged.connect(lambda *_: self._show())
        self._view.anchorClicked.connect(self._follow)
        self._filter("")
        self.turn_to(page)

    def turn_to(self, name: str) -> None:
        """Show a page by its name."""
        for row in range(self._list.count()):
            if self._list.item(row).data(256) == name:
                self._list.setCurrentRow(row)

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        self._list.clear()
        for page in self._pages.values():
            if all(word in page.text.lower() for word in words):
                item = QListWidgetItem(page.title)
                item.setData(256, page.name)
                self._list.addItem(item)
        self._list.setCurrentRow(0)

    def _show(self) -> None:
        item = self._list.currentItem()
        if item is None:
            self._view.setMarkdown("Nothing in the guide holds these words.")
            return
        self._view.setMarkdown(self._pages[item.data(256)].text)
        self._mark()

    def _mark(self) -> None:
        """Mark what was searched for, and scroll to the first of it."""
        found = []
        for word in self._search.text().split():
            cursor = self._view.document().find(word)
            while not cursor.isNull():
                mark = QTextEdit.ExtraSelection()
                mark.cursor = cursor
                mark.format.setFontUnderline(True)
                found.append(mark)
                cursor = self._view.document().find(word, cursor)
        self._view.setExtraSelections(found)
        if found:
            first = min(found, key=lambda mark: mark.cursor.position())
            at = QTextCursor(first.cursor)
            at.clearSelection()
            self._view.setTextCursor(at)

    def _follow(self, url: QUrl) -> None:
        """Links lead to other pages only."""
        self.turn_to(url.fileName().removesuffix(".md"))
        self._show()
