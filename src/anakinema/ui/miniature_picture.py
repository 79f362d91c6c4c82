"""What a miniature shows: a small mechanism at a share of its run."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtGui import QPainter

from anakinema.findings import Miniature
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.stage.view import View
from anakinema.ui.theme import Theme


class MiniaturePicture:
    """The bodies of a mechanism, in a view that holds all of their motion."""

    def __init__(self, shown: Miniature) -> None:
        self._shown, self._bodies = shown, BodyPainter(shown.resolved)
        self._beyond = _beyond(shown)

    @property
    def seconds(self) -> float:
        """How long its run takes in truth."""
        return self._shown.seconds

    def paint(self, painter: QPainter, size: QSize, share: float, theme: Theme) -> None:
        """Draw it into the upper part of a card, ``share`` of its run (0 to 1) gone by."""
        poses = self._shown.poses
        low_x, low_y, high_x, high_y = self._bodies.bounds(poses[::6], self._beyond)
        wide, high = max(high_x - low_x, 1.0), max(high_y - low_y, 1.0)
        scale = min((size.width() - 28) / wide, (size.height() - 18) / high)
        view = View((low_x + high_x) / 2, (low_y + high_y) / 2, scale)
        at = min(int(share * len(poses)), len(poses) - 1)
        place = view.transform(size.width(), size.height() + 4)
        self._bodies.draw(painter, place, poses[at], theme, frozenset(), self._beyond)


def _beyond(shown: Miniature) -> frozenset[int]:
    """All bodies but those of the plane on which most of them lie."""
    of = shown.resolved.planes.of.tolist()
    busiest = max(of, key=of.count, default=0)
    return frozenset(k for k, plane in enumerate(of) if plane != busiest)
