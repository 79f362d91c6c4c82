"""Which lanes the strip shows, and in what order; kept while the program runs."""

from __future__ import annotations

from collections.abc import Sequence

from anakinema.session import Lane


class LaneOrder:
    """Lanes go by their titles, so that the choice outlives every new answer."""

    def __init__(self) -> None:
        self._hidden: set[str] = set()
        self._order: list[str] = []

    def shown(self, lanes: Sequence[Lane]) -> list[Lane]:
        """Those on show, in their order; at least one."""
        kept = [lane for lane in self._sorted(lanes) if lane.title not in self._hidden]
        return kept or list(lanes[:1])

    def hidden(self, lanes: Sequence[Lane]) -> list[Lane]:
        """Those that were hidden."""
        return [lane for lane in lanes if lane.title in self._hidden]

    def hide(self, lanes: Sequence[Lane], lane: Lane) -> None:
        """Take a lane out of sight."""
        self._hidden.add(lane.title)

    def show(self, lanes: Sequence[Lane], lane: Lane) -> None:
        """Bring a lane back."""
        self._hidden.discard(lane.title)

    def move(self, lanes: Sequence[Lane], lane: Lane, by: int) -> None:
        """A lane changes places with its neighbour on show."""
        shown = [each.title for each in self.shown(lanes)]
        at = shown.index(lane.title) if lane.title in shown else -1
        if at < 0 or not 0 <= at + by < len(shown):
            return
        shown[at], shown[at + by] = shown[at + by], shown[at]
        self._order = shown

    def _sorted(self, lanes: Sequence[Lane]) -> list[Lane]:
        places = {title: k for k, title in enumerate(self._order)}
        return sorted(lanes, key=lambda lane: places.get(lane.title, len(places)))
