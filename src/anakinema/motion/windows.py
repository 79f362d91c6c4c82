"""Contact windows: from where to where two bodies are in touch."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.motion.motion import EventKind, Motion

SAME = 1e-9
"""Progress by which one stretch goes on from another."""


@dataclass(frozen=True, slots=True)
class Window:
    """Two bodies are in touch from ``begin`` to ``end`` of the progress.

    Before and after they are not, but for grazes of less than docs/methods.md, "Contact", says.
    """

    bodies: tuple[int, int]
    begin: float
    end: float


def contact_windows(motion: Motion) -> tuple[Window, ...]:
    """All windows of a motion in order, those that meet made one."""
    found: dict[tuple[int, int], list[Window]] = {}

    def add(bodies: tuple[int, int], begin: float, end: float) -> None:
        ordered = min(bodies), max(bodies)
        windows = found.setdefault(ordered, [])
        if windows and begin <= windows[-1].end + SAME:
            last = windows.pop()
            begin, end = last.begin, max(end, last.end)
        windows.append(Window(ordered, begin, end))

    for segment in motion.segments:
        begin = segment.stage + segment.first
        if begin > motion.last:
            break
        for touch in segment.branch_path.path.system.touches:
            add((touch.first, touch.second), begin, min(segment.stage + segment.last, motion.last))
    for event in motion.events:
        if event.kind in (EventKind.STOP, EventKind.JAM) and event.bodies is not None:
            add(event.bodies, event.progress, event.progress)
    every = [window for windows in found.values() for window in windows]
    return tuple(sorted(every, key=lambda window: (window.begin, window.end)))
