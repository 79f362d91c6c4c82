"""A sheet, before and after it has its number; and what all makers of sheets are given."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from anakinema.document.model import PaperName, SheetSettings
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.record.listed_parts import Row
from anakinema.record.sheets.dimensions import Dimension
from anakinema.record.sheets.layout import Fields, framed
from anakinema.record.sheets.paper import Mark
from anakinema.record.sheets.papers import PAPERS


@dataclass(frozen=True, slots=True)
class Drawn:
    """What sheets are drawn of: an evaluation, poses (B, 3) to show it at, its parts list."""

    evaluation: Evaluation
    poses: Floats
    rows: tuple[Row, ...]

    @property
    def settings(self) -> SheetSettings:
        """What the designer wants of sheets."""
        return self.evaluation.source.sheets


@dataclass(frozen=True, slots=True)
class Leaf:
    """A sheet without frame and number. ``key`` is the same whatever else is in the set;
    dimensions are already among the marks."""

    key: str
    title: str
    subject: str
    paper: PaperName
    marks: tuple[Mark, ...]
    scale: str = "none"
    dimensions: tuple[Dimension, ...] = ()
    note: str = ""
    projected: bool = False
    """Whether it is seen square from a side, so that the method of projection matters."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """A leaf on paper of a size in mm, frame and title block among its marks."""

    leaf: Leaf
    width: float
    height: float
    marks: tuple[Mark, ...]

    @property
    def title(self) -> str:
        """What it is called in a list of sheets."""
        return self.leaf.title


def numbered(leaves: Sequence[Leaf], title: str, settings: SheetSettings) -> list[Sheet]:
    """Leaves as sheets of one set."""
    found = []
    for k, leaf in enumerate(leaves, start=1):
        size = PAPERS[leaf.paper]
        fields = Fields(
            title,
            leaf.subject,
            leaf.scale,
            f"{k} of {len(leaves)}",
            leaf.paper,
            settings.revision,
            settings.date,
            settings.drawn_by,
            settings.projection == "first" if leaf.projected else None,
            leaf.note,
        )
        found.append(Sheet(leaf, *size, (*framed(size, fields), *leaf.marks)))
    return found
