"""Exact outlines, curves, wheels and cams: values without a document, in mm and rad."""

from anakinema.geometry.laws import MotionLaw
from anakinema.geometry.region import Region

__all__ = ["MotionLaw", "Region"]
