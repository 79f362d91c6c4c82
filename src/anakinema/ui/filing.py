"""Opening, saving and leaving a document, with what must be asked for it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from anakinema.files import SUFFIX
from anakinema.resources import demo_names, demo_path
from anakinema.session import FileChangedError, beside
from anakinema.ui.workbench import Workbench

FILES = f"Mechanism (*{SUFFIX});;All files (*)"


class Filing:
    """Asks before the window; every answer leads on or leaves all as it is."""

    def __init__(self, workbench: Workbench, frame: QWidget) -> None:
        self._bench, self._frame = workbench, frame

    def chosen_to_open(self) -> Path | None:
        """The file that the user chooses to open."""
        name, _ = QFileDialog.getOpenFileName(self._frame, "Open a mechanism", "", FILES)
        return Path(name) if name else None

    def save(self) -> bool:
        """Save under the present name; a ready mechanism is saved under a new one."""
        path = self._bench.session.path
        if path is None or path.parent == demo_path(demo_names()[0]).parent:
            return self.save_as()
        return self._save_to(path)

    def save_as(self) -> bool:
        """Save under a chosen name; one is proposed, with its extension."""
        path = self._bench.session.path
        stem = self._bench.session.document.name.lower().replace(" ", "-")
        proposed = f"{''.join(c for c in stem if c.isalnum() or c in '-_') or 'mechanism'}{SUFFIX}"
        if path is not None and path.parent != demo_path(demo_names()[0]).parent:
            proposed = str(path)
        name, _ = QFileDialog.getSaveFileName(self._frame, "Save the mechanism", proposed, FILES)
        if not name:
            return False
        path = Path(name)
        return self._save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def _save_to(self, path: Path) -> bool:
        try:
            return self._bench.save(path)
        except FileChangedError as error:
            return self._settle(path, error)

    def _settle(self, path: Path, error: FileChangedError) -> bool:
        """The file is not what it was: whose is to stay?"""
        box = QMessageBox(self._frame)
        box.setObjectName("changed_box")
        box.setText(f"{error.where[:1].upper()}{error.where[1:]}: {error.what}")
        box.setInformativeText("Keeping yours writes over theirs. Taking theirs can be undone.")
        mine = box.addButton("Keep mine", QMessageBox.ButtonRole.AcceptRole)
        theirs = box.addButton("Take theirs", QMessageBox.ButtonRole.DestructiveRole)
        both = box.addButton(f"Save beside, as {beside(path).name}", QMessageBox.ButtonRole.YesRole)
        cancel = box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        theirs.setEnabled(path.exists())
        box.setEscapeButton(cancel)
        box.exec()
        if box.clickedButton() is mine:
            return self._bench.save(path, over=True)
        if box.clickedButton() is theirs:
            self._bench.take_theirs()
        # Theirs is to be looked at before anything is closed.
        return box.clickedButton() is both and self._bench.save(beside(path))

    def may_leave(self) -> bool:
        """Undo cannot bring back a closed document, so here we do ask."""
        session = self._bench.session
        if not (self._bench.has_document and (session.is_changed or session.is_gone)):
            return True
        box = QMessageBox(self._frame)
        box.setObjectName("leave_box")
        gone = f"The file {session.path.name} has been deleted" if session.path else ""
        box.setText(
            f"“{session.document.name}” has unsaved changes."
            if session.is_changed
            else f"{gone}. What is open here is all there is of it."
        )
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Do not save", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.setEscapeButton(stay)
        box.exec()
        if box.clickedButton() is stay or box.clickedButton() is None:
            return False
        return self.save() if box.clickedButton() is save else True
