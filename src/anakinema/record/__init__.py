"""What leaves the program as files in open formats: one list, `EXPORTS`; and the parts list."""

from anakinema.record.exports import EXPORTS, Export
from anakinema.record.listed_parts import Row, parts_list, total_mass

__all__ = ["EXPORTS", "Export", "Row", "parts_list", "total_mass"]
