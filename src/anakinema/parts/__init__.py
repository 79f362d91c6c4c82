"""The shelf: recipes that make one part, and kits that make several with their joints; and common
materials."""

from anakinema.parts.materials import MATERIALS, material_named
from anakinema.parts.shelf import GROUPS, OFFERED, recipe

__all__ = ["GROUPS", "MATERIALS", "OFFERED", "material_named", "recipe"]
