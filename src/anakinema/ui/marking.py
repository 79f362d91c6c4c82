"""The place being marked: between which snaps, how far off, and where that would be."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from anakinema.authoring import PlacedSnap, Scene, drawn, marked, placed_snap_like
from anakinema.errors import AnakinemaError
from anakinema.ui.workbench import Workbench


class MarkDraft(QObject):
    """One or two snaps of a body and a distance off; every change shows the place as a ghost."""

    changed = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__(workbench)
        self._workbench = workbench
        self.first: PlacedSnap | None = None
        self.second: PlacedSnap | None = None
        self.off: dict[str, str] = {}
        self.at: tuple[float, float] | None = None
        self.trouble: AnakinemaError | None = None
        workbench.tool_changed.connect(self.clear)

    @property
    def is_active(self) -> bool:
        """Whether the mark tool is in hand."""
        return self._workbench.tool == "mark"

    def clear(self) -> None:
        """Begin anew."""
        self.first = self.second = self.at = self.trouble = None
        self.off = {}
        self.changed.emit()

    def pick(self, first: PlacedSnap | None, second: PlacedSnap | None = None) -> None:
        """Take one snap, or two of one body."""
        self.first, self.second = first, second
        self._ask()

    def set_off(self, which: str, stated: str) -> None:
        """How far 'along' the direction of the first snap, or 'across' it to the left."""
        self.off = {**self.off, which: stated}
        self._ask()

    def _made(self, scene: Scene):  # type: ignore[no-untyped-def]
        assert self.first is not None
        return marked(
            scene.resolved,
            self.first,
            self.second,
            self.off.get("along", 0.0),
            self.off.get("across", 0.0),
        )

    def _ask(self) -> None:
        self.at = self.trouble = None
        scene = self._workbench.rest()
        if scene is not None and self.first is not None:
            try:
                edit, place = self._made(scene)
                after = drawn(edit.apply(scene.resolved.source))
                self.at = Scene(after.resolved, scene.poses).point(self.first.body, place)
            except AnakinemaError as error:
                self.trouble = error
        self.changed.emit()

    def commit(self) -> bool:
        """Mark the place; ready for the next one."""
        scene = self._workbench.rest()
        if scene is None or self.at is None or self.first is None:
            return False
        first = placed_snap_like(scene, scene.poses, self.first)
        self.first = first
        edit, _ = self._made(scene)
        self._workbench.do_once(edit)
        self.clear()
        return True
