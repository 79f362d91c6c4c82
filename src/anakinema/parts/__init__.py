"""The shelf: recipes that make one part, and kits that make several with their joints."""

from anakinema.parts.shelf import GROUPS, OFFERED, recipe

__all__ = ["GROUPS", "OFFERED", "recipe"]
