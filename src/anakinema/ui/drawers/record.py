"""The Record drawer: kept poses, and what leaves the program in open formats."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFileDialog, QPushButton, QSpinBox, QVBoxLayout, QWidget

from anakinema.authoring import poses_to_draw
from anakinema.errors import AnakinemaError
from anakinema.record import EXPORTS, Export
from anakinema.session import write_export
from anakinema.ui.drawers.poses import PoseList
from anakinema.ui.fields import label, row
from anakinema.ui.filming import Film, write_picture
from anakinema.ui.workbench import Workbench
from anakinema.ui.worker import Worker
from anakinema.writing import write_bytes

WIDTHS = 320, 12000
"""Pixels that a picture may be wide."""


class RecordDrawer(QWidget):
    """Poses to come back to, and files; those are made beside the window."""

    parts_asked = Signal()
    sheets_asked = Signal()

    def __init__(
        self,
        workbench: Workbench,
        shown: Callable[[], tuple[QWidget, QWidget]],
        in_lines: Callable[[], bytes],
    ) -> None:
        """``shown``: the stage and the strip, for pictures of them; ``in_lines``: the depth view as
        SVG."""
        super().__init__()
        self._in_lines = in_lines
        self._workbench, self._shown = workbench, shown
        self._worker = Worker("recording", self)
        self._worker.answered.connect(self._written)
        self._worker.broke.connect(self._broke)
        self._buttons: list[QPushButton] = []
        self._done = label("", "quiet", wrap=True)
        self._done.setObjectName("record_done")
        self.film = Film(workbench, shown)
        self.film.progressed.connect(
            lambda taken, of: self._done.setText(f"Frame {taken} of {of}: press again to stop.")
        )
        self.film.ended.connect(self._filmed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 12, 10)
        layout.setSpacing(8)
        layout.addWidget(PoseList(workbench, workbench.poses))
        for name, words, why, asked in (
            (
                "parts",
                "Parts list",
                "Item numbers, quantities, materials and masses, edited in place (F11)",
                self.parts_asked,
            ),
            (
                "sheets",
                "Sheets",
                "Drawings on paper as they will be printed, and what they say (F12)",
                self.sheets_asked,
            ),
        ):
            page = QPushButton(words)
            page.setObjectName(f"record_{name}")
            page.setToolTip(why)
            page.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            page.clicked.connect(asked)
            layout.addWidget(page)
        layout.addWidget(label("Take it with you", "section"))
        layout.addWidget(self._done)
        group = ""
        for export in EXPORTS:
            if export.group != group:
                group = export.group
                layout.addWidget(label(group, "quiet"))
            button = QPushButton(export.title)
            button.setObjectName(f"export_{export.id}")
            button.setToolTip(export.why)
            button.setAccessibleDescription(export.why)
            # A click must leave the keys to the stage: Space plays, it does not press again.
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, e=export: self._export(e))
            layout.addWidget(button)
            self._buttons.append(button)
        layout.addWidget(label("Pictures", "quiet"))
        for name, words, why, run in (
            (
                "picture",
                "Picture of the stage…",
                "As it is on show, flat or in depth, as wide as stated, as PNG.",
                self._take_picture,
            ),
            (
                "depth",
                "In depth, in lines…",
                "From where the depth view looks, as far apart, in parallel projection and uncut,"
                " as SVG.",
                self._take_lines,
            ),
            ("film", "Film of the motion…", "The whole motion on the stage, as GIF.", self._film),
            (
                "film_strip",
                "Film with the strip…",
                "The same with the curves and the playhead below, as GIF.",
                lambda: self._film(with_strip=True),
            ),
        ):
            button = QPushButton(words)
            button.setObjectName(f"export_{name}")
            button.setToolTip(why)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, r=run: r())
            layout.addWidget(button)
        self._width = QSpinBox()
        self._width.setObjectName("picture_width")
        self._width.setAccessibleName("width of a picture in pixels")
        self._width.setRange(*WIDTHS)
        self._width.setSingleStep(160)
        self._width.setSuffix(" px")
        self._width.setValue(2560)
        layout.addWidget(row("Pictures wide", self._width, width=110))
        layout.addStretch(1)

    def stop(self) -> None:
        """End the thread; nobody is left to be told."""
        self._buttons.clear()
        self._worker.stop()
        self.film.stop()

    def _asked_path(self, name: str) -> Path | None:
        """Where a file goes, its name offered behind that of the mechanism; None for nowhere."""
        stem, kind = _stem(self._workbench.session.document.name), name.rpartition(".")[2]
        found, _ = QFileDialog.getSaveFileName(
            self, "Record", f"{stem}-{name}", f"{kind.upper()} (*.{kind})"
        )
        return Path(found) if found else None

    def _take_picture(self) -> None:
        path = self._asked_path("stage.png")
        if path is None:
            return
        try:
            write_picture(self._shown()[0], path, self._width.value())
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._written(0, path)

    def _take_lines(self) -> None:
        path = self._asked_path("depth.svg")
        if path is None:
            return
        try:
            write_bytes(self._in_lines(), path)
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._written(0, path)

    def _film(self, *, with_strip: bool = False) -> None:
        if self.film.runs:
            self.film.cancel()
            return
        path = self._asked_path("motion.gif")
        if path is not None:
            self._allow(False)
            self.film.start(path, with_strip=with_strip)

    def _filmed(self, answer: object) -> None:
        if answer is None:
            self._allow(True)
            self._done.setText("Stopped: nothing was written.")
        else:
            self._written(0, answer)

    def _broke(self, number: int, error: object) -> None:
        self._allow(True)
        self._done.setText("")
        self._workbench.broke.emit(error)

    def _allow(self, on: bool) -> None:
        """One file at a time."""
        for button in self._buttons:
            button.setEnabled(on)

    def export(self, name: str) -> None:
        """Write the file of that id of `EXPORTS`."""
        self._export(next(each for each in EXPORTS if each.id == name))

    def _export(self, export: Export) -> None:
        bench = self._workbench
        evaluation, poses = bench.evaluation, bench.shown_poses()
        if evaluation is None or poses is None:
            self._done.setText("There is no result to record yet.")
            return
        is_known = bench.is_current and evaluation.is_exact
        if not is_known or len(poses) != len(evaluation.resolved.poses):
            self._done.setText("What is on show is still being worked out: try again in a moment.")
            return
        path, shown = self._asked_path(export.name), poses.copy()
        if path is None:
            return

        def task() -> Iterator[object]:
            try:
                write_export(export, evaluation, poses_to_draw(evaluation, shown), path)
            except AnakinemaError as error:
                yield error
            else:
                yield path

        self._done.setText(f"Writing {path.name}…")
        self._allow(False)
        self._worker.request(task)

    def _written(self, number: int, answer: object) -> None:
        self._allow(True)
        if isinstance(answer, AnakinemaError):
            self._done.setText("")
            self._workbench.report(answer)
        elif isinstance(answer, Path):
            self._done.setText(f"Written to {answer.name}.")
            self._workbench.written(answer)


def _stem(name: str) -> str:
    """The name of a mechanism as the beginning of a file's name."""
    plain = "".join(c if c.isalnum() or c in "-_." else "-" for c in name.strip().lower())
    return plain.strip("-.")[:60] or "mechanism"
