"""Edits of cams: their base, follower, segments and points, each number an expression."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, changed, replaced


def _with_cam(
    document: Document, part_id: str, cam_id: str, change: Callable[[model.Cam], model.Cam]
) -> Document:
    part = document.part(part_id)
    cam = change(model.next_by_id(part.cams, cam_id))
    cams = tuple(cam if each.id == cam_id else each for each in part.cams)
    part = part.model_copy(update={"cams": cams})
    return document.model_copy(update={"parts": replaced(document.parts, part)})


def _with_segments(
    document: Document, part_id: str, cam_id: str, change: Callable[[list[model.CamSegment]], None]
) -> Document:
    def changed_in_place(cam: model.Cam) -> model.Cam:
        segments = list(cam.segments)
        change(segments)
        return cam.model_copy(update={"segments": tuple(segments)})

    return _with_cam(document, part_id, cam_id, changed_in_place)


@dataclass(frozen=True)
class SetCam(Keyed):
    """Set a field of a cam: ``base``, ``ease``, ``name``, ``segments`` or ``points``."""

    part: str
    cam: str
    field: str
    value: object
    subject = ("part", "cam", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of cam"

    def apply(self, document: Document) -> Document:
        return _with_cam(
            document, self.part, self.cam, lambda cam: changed(cam, **{self.field: self.value})
        )


@dataclass(frozen=True)
class SetFollower(Keyed):
    """Set a field of the follower of a cam."""

    part: str
    cam: str
    field: str
    value: Source
    subject = ("part", "cam", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of follower"

    def apply(self, document: Document) -> Document:
        def change(cam: model.Cam) -> model.Cam:
            follower = changed(cam.follower, **{self.field: self.value})
            return cam.model_copy(update={"follower": follower})

        return _with_cam(document, self.part, self.cam, change)


@dataclass(frozen=True)
class SetSegment(Keyed):
    """Set the ``turn``, the lift ``to`` or the ``law`` of a segment of a cam."""

    part: str
    cam: str
    index: int
    field: str
    value: Source
    label = "Set segment of cam"
    subject = ("part", "cam", "index", "field")

    def apply(self, document: Document) -> Document:
        def change(segments: list[model.CamSegment]) -> None:
            segments[self.index] = changed(segments[self.index], **{self.field: self.value})

        return _with_segments(document, self.part, self.cam, change)


@dataclass(frozen=True)
class SplitSegment(Keyed):
    """Cut a segment of a cam in two of half its turn; the second dwells where it led to."""

    part: str
    cam: str
    index: int
    label = "Add segment to cam"
    subject = ()

    def apply(self, document: Document) -> Document:
        def change(segments: list[model.CamSegment]) -> None:
            old = segments[self.index]
            half = old.turn / 2 if isinstance(old.turn, float | int) else f"({old.turn})/2"
            first = old.model_copy(update={"turn": half})
            segments[self.index : self.index + 1] = [
                first,
                first.model_copy(update={"law": "cycloidal"}),
            ]

        return _with_segments(document, self.part, self.cam, change)


@dataclass(frozen=True)
class RemoveSegment(Keyed):
    """Take a segment out of a cam; the one after it, or before, takes its turn."""

    part: str
    cam: str
    index: int
    label = "Remove segment of cam"
    subject = ()

    def apply(self, document: Document) -> Document:
        def change(segments: list[model.CamSegment]) -> None:
            if len(segments) < 2:
                raise KeyError(self.index)
            gone = segments.pop(self.index)
            heir = min(self.index, len(segments) - 1)
            kept = segments[heir]
            stated = [s.turn for s in (gone, kept)]
            plain = [t for t in stated if isinstance(t, float | int)]
            total = sum(plain) if len(plain) == 2 else " + ".join(f"({t})" for t in stated)
            segments[heir] = kept.model_copy(update={"turn": total})

        return _with_segments(document, self.part, self.cam, change)
