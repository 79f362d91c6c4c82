"""What leaves the program as files in open formats: one list, `EXPORTS`; and the parts list."""

from anakinema.record.animation import Frame, gif
from anakinema.record.exports import EXPORTS, Export
from anakinema.record.listed_parts import Row, centre_of_mass, parts_list, total_mass, whole_list
from anakinema.record.sheets.depth_picture import depth_picture
from anakinema.record.sheets.dimensions import Dimension
from anakinema.record.sheets.paper import Line, Mark, Shape, Text
from anakinema.record.sheets.sheet import Leaf, Sheet
from anakinema.record.sheets.sheet_set import (
    SHEET_KINDS,
    as_set,
    changes_since,
    issue_of,
    leaves_of,
)
from anakinema.record.sheets.writers import curves

__all__ = [
    "EXPORTS",
    "SHEET_KINDS",
    "Dimension",
    "Export",
    "Frame",
    "Leaf",
    "Line",
    "Mark",
    "Row",
    "Shape",
    "Sheet",
    "Text",
    "as_set",
    "centre_of_mass",
    "changes_since",
    "curves",
    "depth_picture",
    "gif",
    "issue_of",
    "leaves_of",
    "parts_list",
    "total_mass",
    "whole_list",
]
