"""What would be repeated, and how it would come, live."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from anakinema.authoring import (
    PlacedSnap,
    Repeat,
    RepeatWish,
    carrier,
    outer_joints,
    places_offered,
    repeat,
)
from anakinema.errors import AnakinemaError
from anakinema.ui.workbench import Selection, Workbench


class RepeatDraft(QObject):
    """What would be repeated, and how it would come."""

    changed = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__(workbench)
        self._workbench = workbench
        self.wish = RepeatWish()
        self.found: Repeat | None = None
        self.trouble = ""
        self.joints: tuple[tuple[str, str], ...] = ()
        self.offered: tuple[PlacedSnap, ...] = ()
        workbench.tool_changed.connect(self._ask)
        workbench.selection_changed.connect(self._ask)
        workbench.scene_changed.connect(self._ask)

    @property
    def is_active(self) -> bool:
        """Whether the panel is open."""
        return self._workbench.tool == "repeat"

    def set_wish(self, **values: object) -> None:
        """Wish something else."""
        self.wish = replace(self.wish, **values)  # type: ignore[arg-type]
        self._ask()

    def _ask(self) -> None:
        self.found, self.trouble = None, ""
        self.joints = self.offered = ()
        if self.is_active:
            scene, bodies = self._workbench.rest(), self._workbench.selection.bodies
            if not bodies:
                self.trouble = "Select the bodies to repeat."
            elif scene is not None:
                try:
                    self.joints = outer_joints(scene, bodies)
                    if self.wish.manner == "places":
                        self.wish = replace(self.wish, by=carrier(scene, bodies, self.wish))
                        self.offered = places_offered(scene, bodies, self.wish)
                    self.found = repeat(scene, bodies, self.wish)
                except AnakinemaError as error:
                    self.trouble = f"{error.what} {error.remedy}"
        self.changed.emit()

    def is_target(self, snap: PlacedSnap) -> bool:
        """Whether a copy shall come onto a place."""
        return any(_same(snap, target) for target in self.wish.targets)

    def toggle(self, snap: PlacedSnap) -> bool:
        """Choose an offered place, or no longer; gives whether it is one."""
        offered = next((other for other in self.offered if _same(other, snap)), None)
        if offered is None:
            return False
        kept = tuple(target for target in self.wish.targets if not _same(target, offered))
        if len(kept) == len(self.wish.targets):
            kept = (*kept, offered)
        self.set_wish(targets=kept)
        return True

    def commit(self) -> bool:
        """Make the copies."""
        if self.found is None:
            return False
        found = self.found
        self.wish = replace(self.wish, targets=(), without=frozenset())
        self._workbench.use_tool("")
        self._workbench.do_once(found.edit)
        self._workbench.select(Selection("body", found.bodies[0], found.bodies[1:]))
        return True


def _same(one: PlacedSnap, other: PlacedSnap) -> bool:
    return (one.body, one.snap.place.id) == (other.body, other.snap.place.id)
