"""Sizes of paper: ISO 216, and ANSI/ASME Y14.1 (both from memory)."""

from __future__ import annotations

from collections.abc import Mapping

from anakinema.document.model import PaperName
from anakinema.record.sheets.paper import Place

INCH = 25.4
PAPERS: Mapping[PaperName, Place] = {
    "A4": (210.0, 297.0),
    "A3": (420.0, 297.0),
    "A2": (594.0, 420.0),
    "A1": (841.0, 594.0),
    "ANSI A": (8.5 * INCH, 11 * INCH),
    "ANSI B": (17 * INCH, 11 * INCH),
    "ANSI C": (22 * INCH, 17 * INCH),
}
"""Width and height in mm; the smallest of each kind stands upright."""
KINDS: tuple[tuple[PaperName, ...], ...] = (
    ("A4", "A3", "A2", "A1"),
    ("ANSI A", "ANSI B", "ANSI C"),
)


def papers_up_to(largest: PaperName) -> tuple[PaperName, ...]:
    """The papers of its kind from the smallest to it."""
    kind = next(kind for kind in KINDS if largest in kind)
    return kind[: kind.index(largest) + 1]
