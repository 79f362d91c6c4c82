"""Drawings from strangers (DXF, SVG): outlines read by a process of their own, within bounds.

That process imports this package and little else: it starts anew for each file.
"""

from anakinema.drawings.drawing import Drawing
from anakinema.drawings.outlines import read_drawing

__all__ = ["Drawing", "read_drawing"]
