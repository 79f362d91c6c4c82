"""The path of a point is kept by a click, drawn with its time marks, and taken away again."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QMenu

from anakinema.authoring import kept_paths
from anakinema.document import model
from anakinema.ui.menus import menu_on
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import Hand

LEFT = Qt.MouseButton.LeftButton


def opened_hand(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    return Hand(qtbot, opened("vent-opener"), settled)


def paths(hand: Hand) -> list[str]:
    return [
        kept.measure.place.place
        for kept in hand.bench.session.document.measures
        if isinstance(kept.measure, model.PathMeasure)
    ]


def paths_menu(hand: Hand, body: str) -> QMenu:
    hand.bench.select(Selection("body", body))
    menu = menu_on(hand.bench, hand.bench.selection, hand.window.commands, hand.window)
    return next(m for m in menu.findChildren(QMenu) if m.title() == "Trace the path of")


def inked(hand: Hand, points: np.ndarray) -> float:
    """Share of points (N, 2) of the plane at which the stage shows the colour of motion."""
    picture = hand.window.stage.grab().toImage()
    accent = QColor(hand.bench.theme.accent)
    seen = 0
    for x, y in points:
        at = hand.window.stage.to_pixels(x, y).toPoint()
        colours = [
            picture.pixelColor(at + QPoint(dx, dy)) for dx in (-1, 0, 1) for dy in (-1, 0, 1)
        ]
        near = min(
            abs(c.red() - accent.red())
            + abs(c.green() - accent.green())
            + abs(c.blue() - accent.blue())
            for c in colours
        )
        seen += near < 90
    return seen / len(points)


def test_a_path_is_traced_from_the_menu_and_undone(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled)
    scene = hand.bench.scene
    body = next(b for b in scene.resolved.document.bodies if not b.fixed)
    place = sorted(scene.resolved.part_of(body).places)[-1]
    action = next(
        a for a in paths_menu(hand, body.id).actions() if a.text() == place.replace("_", " ")
    )
    action.trigger()
    hand.settled(hand.window)
    assert paths(hand) == [place]
    (trace,) = kept_paths(hand.bench.evaluation)
    hand.bench.select(Selection())
    assert inked(hand, trace.points[:: max(1, len(trace.points) // 40)]) > 0.8
    # The lane of the strip grows with it, and the mark in the menu takes it away.
    assert any(lane.title == trace.title for lane in hand.bench.lanes)
    again = next(
        a for a in paths_menu(hand, body.id).actions() if a.text() == place.replace("_", " ")
    )
    assert again.isChecked()
    again.trigger()
    assert paths(hand) == []
    hand.bench.undo()
    assert paths(hand) == [place]


def test_a_place_that_is_picked_to_be_measured_is_traced_by_enter(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled)
    scene = hand.bench.scene
    body = next(b for b in scene.resolved.document.bodies if not b.fixed)
    x, y = scene.point(body.id, sorted(scene.resolved.part_of(body).places)[-1])
    hand.bench.use_tool("measure")
    at = hand.window.stage.to_pixels(x, y).toPoint()
    qtbot.mouseMove(hand.window.stage, at)
    qtbot.mouseClick(hand.window.stage, LEFT, pos=at)
    qtbot.keyClick(hand.window.stage, Qt.Key.Key_Return)
    hand.settled(hand.window)
    assert len(paths(hand)) == 1 and hand.bench.tool == ""
