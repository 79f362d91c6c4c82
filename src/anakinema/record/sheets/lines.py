"""Lines of words on sheets, one below the other."""

from __future__ import annotations

from anakinema.document.model import PaperName
from anakinema.record.sheets.layout import HIGH, LEFT, LETTERS, MARGIN
from anakinema.record.sheets.paper import Mark, Text, moved
from anakinema.record.sheets.papers import PAPERS

Lines = list[list[Mark]]
"""Marks of each line, as if its base line began at the origin."""
LINE = 5.2
"""mm from one line of words to the next."""
SIZE = 2.8
INSET = 3.0
"""mm from the frame to the words."""


def width_of(paper: PaperName) -> float:
    """mm between the sides of the frame, less what stays free on either side."""
    return PAPERS[paper][0] - LEFT - MARGIN - 2 * INSET


def span_of(paper: PaperName) -> tuple[float, float]:
    """Where lines may stand, from the lowest to the highest, mm."""
    return MARGIN + HIGH + 8, PAPERS[paper][1] - MARGIN - 10


def paragraph(
    words: str, paper: PaperName, size: float = SIZE, *, strong: bool = False, left: float = 0.0
) -> Lines:
    """Words in as many lines as they need."""
    most = int((width_of(paper) - left) / (LETTERS * size))
    lines, line = [], ""
    for word in words.split():
        if line and len(line) + 1 + len(word) > most:
            lines.append(line)
            line = word
        else:
            line = f"{line} {word}".strip()
    return [[Text((left, 0.0), each, size, strong=strong)] for each in [*lines, line]]


def in_pages(lines: Lines, paper: PaperName) -> list[list[Mark]]:
    """Lines from the top of a sheet down, and on the next; none gives no sheet."""
    low, top = span_of(paper)
    most = int((top - low) / LINE)
    return [
        [
            moved(mark, LEFT + INSET, top - k * LINE)
            for k, line in enumerate(lines[first : first + most])
            for mark in line
        ]
        for first in range(0, len(lines), most)
    ]
