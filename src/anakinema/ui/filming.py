"""The stage as a picture, and its motion as an animation, frame by frame while the window lives."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QBuffer, QIODevice, QObject, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QWidget

from anakinema.errors import AnakinemaError, FileFormatError
from anakinema.record import Frame, gif
from anakinema.ui.workbench import Workbench
from anakinema.ui.worker import Worker
from anakinema.writing import write_bytes

Pixels = npt.NDArray[np.uint8]
WIDTH = 800
"""Pixels that an animation is wide at most."""
RATE, MOST = 20, 240
"""Frames a second of the motion's own time, and frames at most."""


def picture(stage: QWidget, scale: float) -> QImage:
    """The stage as it is, larger or smaller."""
    size = QSize(round(stage.width() * scale), round(stage.height() * scale))
    image = QImage(size, QImage.Format.Format_RGB888)
    image.setDevicePixelRatio(scale)
    image.fill(Qt.GlobalColor.white)
    # Painted straight onto it: a painter of its own would have to know how fine it is.
    stage.render(image)
    return image


def write_picture(stage: QWidget, path: Path, width: int) -> None:
    """Write the stage as PNG so many pixels wide; raises `FileFormatError`."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    if not picture(stage, width / max(stage.width(), 1)).save(buffer, "PNG"):  # type: ignore[call-overload]
        raise FileFormatError(
            "the picture cannot be made.", where=f"file {path}", remedy="Take a smaller width."
        )
    write_bytes(bytes(buffer.data().data()), path)


def _rows(image: QImage) -> Pixels:
    """(H, W, 3) pixels of an image."""
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1)
    # Copied: what the image holds goes with it.
    return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).copy()


def _below(upper: Pixels, lower: Pixels) -> Pixels:
    """One picture over another, as wide as the upper one."""
    wide = upper.shape[1]
    fitting = np.full((lower.shape[0], wide, 3), 255, np.uint8)
    fitting[:, : min(wide, lower.shape[1])] = lower[:, :wide]
    return np.concatenate([upper, fitting])


class Film(QObject):
    """Takes the frames of an animation one by one, then writes it beside the window."""

    progressed = Signal(int, int)
    """Frames taken, and of how many."""
    ended = Signal(object)
    """The path that was written, an `AnakinemaError`, or None if it was stopped."""

    def __init__(self, bench: Workbench, shown: Callable[[], tuple[QWidget, QWidget]]) -> None:
        super().__init__(bench)
        self._bench, self._shown = bench, shown
        self._with_strip = False
        self._worker = Worker("filming", self)
        self._worker.answered.connect(lambda _, answer: self.ended.emit(answer))
        self._worker.broke.connect(lambda _, error: bench.broke.emit(error))
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._take)
        self._frames: list[Frame] = []
        self._places: list[float] = []
        self._path = Path()
        self._back = 0.0
        bench.document_changed.connect(self.cancel)

    @property
    def runs(self) -> bool:
        """Whether frames are being taken."""
        return self._timer.isActive()

    def start(self, path: Path, *, with_strip: bool = False) -> None:
        """Film the whole motion into a file: the stage, or the strip below it as well."""
        self._with_strip = with_strip
        playback = self._bench.playback
        if playback is None or not playback.duration > 0:
            self._refuse(path, "there is no motion to film.", "Give the program a stage first.")
            return
        if with_strip and not self._shown()[1].isVisible():
            self._refuse(path, "the strip is folded away.", "Bring it back (F8), or film alone.")
            return
        self._bench.play(False)
        count = int(min(max(RATE * playback.duration, 2), MOST))
        times = np.linspace(0.0, playback.duration, count, endpoint=False)
        self._places = [playback.progress_at(float(time)) for time in times]
        self._milliseconds = round(1000 * playback.duration / count)
        self._frames, self._path, self._back = [], path, self._bench.progress
        self._timer.start(0)

    def cancel(self) -> None:
        """Take no more frames; nothing is written."""
        if self._timer.isActive():
            self._go_back()
            self.ended.emit(None)

    def stop(self) -> None:
        """End the thread."""
        self._timer.stop()
        self._worker.stop()

    def _go_back(self) -> None:
        """Take no more frames; the playhead is where it was."""
        self._timer.stop()
        self._bench.move_playhead(self._back)

    def _refuse(self, path: Path, why: str, remedy: str) -> None:
        self.ended.emit(FileFormatError(why, where=f"file {path}", remedy=remedy))

    def _take(self) -> None:
        self._bench.move_playhead(self._places[len(self._frames)])
        stage, strip = self._shown()
        rows = _rows(picture(stage, min(1.0, WIDTH / max(stage.width(), 1))))
        if self._with_strip and strip.isVisible():
            rows = _below(rows, _rows(picture(strip, rows.shape[1] / max(strip.width(), 1))))
        if self._frames and rows.shape[:2] != (self._frames[0].height, self._frames[0].width):
            # The window was drawn larger, or a panel folded away, while it films.
            self._go_back()
            self._refuse(
                self._path,
                "the view changed its size while it was filmed.",
                "Leave the window as it is while frames are taken, and film again.",
            )
            return
        self._frames.append(Frame(rows.shape[1], rows.shape[0], rows.tobytes()))
        self.progressed.emit(len(self._frames), len(self._places))
        if len(self._frames) < len(self._places):
            return
        self._go_back()
        frames, path, each = self._frames, self._path, self._milliseconds

        def task() -> Iterator[object]:
            try:
                write_bytes(gif(frames, each), path)
            except AnakinemaError as error:
                yield error
            else:
                yield path

        self._worker.request(task)
