"""A list of all snaps of the scene, to choose one by keys where the mouse would click it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox

from anakinema.authoring import PlacedSnap, all_snaps
from anakinema.ui.workbench import Workbench


def snap_box(name: str, words: str) -> QComboBox:
    """An empty list of snaps, narrow enough for the inspector."""
    box = QComboBox()
    box.setObjectName(name)
    box.setAccessibleName(words)
    box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    box.setMinimumContentsLength(8)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    return box


def fill_snaps(
    box: QComboBox,
    workbench: Workbench,
    chosen: PlacedSnap | tuple[str, str] | None,
    none: str,
    *,
    body: str = "",
    without: str = "",
) -> None:
    """List every snap, of one ``body`` or ``without`` one, behind a word for none if there is one.

    ``chosen``, a snap or its body and place, is shown.
    """
    scene, poses = workbench.scene, workbench.shown_poses()
    box.clear()
    if none:
        box.addItem(none, None)
    if scene is None or poses is None:
        return
    if isinstance(chosen, PlacedSnap):
        chosen = chosen.body, chosen.snap.place.id
    titles = {each.id: each.title for each in scene.resolved.document.bodies}
    for snap in all_snaps(scene.resolved, poses):
        if (body and snap.body != body) or snap.body == without:
            continue
        box.addItem(f"{titles[snap.body]}: {snap.snap.words}", snap)
        if (snap.body, snap.snap.place.id) == chosen:
            box.setCurrentIndex(box.count() - 1)
