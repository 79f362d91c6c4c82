"""A list of all spots of the scene, to choose one by keys where the mouse would click it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox

from anakinema.authoring import BodySpot, all_spots
from anakinema.ui.workbench import Workbench


def spot_box(name: str, words: str) -> QComboBox:
    """An empty list of spots, narrow enough for the inspector."""
    box = QComboBox()
    box.setObjectName(name)
    box.setAccessibleName(words)
    box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    box.setMinimumContentsLength(8)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    return box


def fill_spots(
    box: QComboBox,
    workbench: Workbench,
    chosen: BodySpot | tuple[str, str] | None,
    none: str,
    *,
    body: str = "",
    without: str = "",
) -> None:
    """List every spot, of one ``body`` or ``without`` one, behind a word for none if there is one.

    ``chosen``, a spot or its body and place, is shown.
    """
    scene, poses = workbench.scene, workbench.shown_poses()
    box.clear()
    if none:
        box.addItem(none, None)
    if scene is None or poses is None:
        return
    if isinstance(chosen, BodySpot):
        chosen = chosen.body, chosen.spot.place.id
    titles = {each.id: each.title for each in scene.resolved.document.bodies}
    for spot in all_spots(scene.resolved, poses):
        if (body and spot.body != body) or spot.body == without:
            continue
        box.addItem(f"{titles[spot.body]}: {spot.spot.words}", spot)
        if (spot.body, spot.spot.place.id) == chosen:
            box.setCurrentIndex(box.count() - 1)
