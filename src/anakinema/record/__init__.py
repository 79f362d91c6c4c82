"""What leaves the program as files in open formats: one list, `EXPORTS`; and the parts list."""

from anakinema.record.animation import Frame, gif
from anakinema.record.exports import EXPORTS, Export
from anakinema.record.listed_parts import Row, parts_list, total_mass

__all__ = ["EXPORTS", "Export", "Frame", "Row", "gif", "parts_list", "total_mass"]
