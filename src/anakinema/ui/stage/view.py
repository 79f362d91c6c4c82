"""The stage's view of the plane: millimetres to pixels, y up."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF
from PySide6.QtGui import QTransform


@dataclass(frozen=True, slots=True)
class View:
    """Centre of the plane shown (mm) at the middle of the stage, and pixels per millimetre."""

    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0

    def transform(self, width: float, height: float) -> QTransform:
        """From mm (y up) to pixels (y down)."""
        return QTransform(
            self.scale,
            0,
            0,
            -self.scale,
            width / 2 - self.scale * self.x,
            height / 2 + self.scale * self.y,
        )

    def to_plane(self, point: QPointF, width: float, height: float) -> tuple[float, float]:
        """mm under a pixel."""
        return (
            self.x + (point.x() - width / 2) / self.scale,
            self.y - (point.y() - height / 2) / self.scale,
        )

    def zoomed(self, factor: float, point: QPointF, width: float, height: float) -> View:
        """Zoom while the place under a pixel stays."""
        x, y = self.to_plane(point, width, height)
        scale = min(max(self.scale * factor, 0.02), 400.0)
        real = scale / self.scale
        return View(x + (self.x - x) / real, y + (self.y - y) / real, scale)

    def panned(self, dx: float, dy: float) -> View:
        """Move the paper by pixels."""
        return View(self.x - dx / self.scale, self.y + dy / self.scale, self.scale)


def fitted(box: tuple[float, float, float, float], width: float, height: float) -> View:
    """A view that shows a box (mm) with a margin."""
    low_x, low_y, high_x, high_y = box
    wide, high = max(high_x - low_x, 1.0), max(high_y - low_y, 1.0)
    scale = min((width - 90) / wide, (height - 110) / high)
    return View((low_x + high_x) / 2, (low_y + high_y) / 2, max(scale, 0.02))


def nice_step(scale: float, least_pixels: float) -> float:
    """A step of 1, 2 or 5 times a power of ten, at least so many pixels wide."""
    step = 1e-3
    while step * scale < least_pixels:
        for factor in (2.0, 2.5, 2.0):
            step *= factor
            if step * scale >= least_pixels:
                break
    return step
