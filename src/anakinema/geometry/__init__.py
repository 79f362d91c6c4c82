"""Exact outlines, curves, wheels and cams: values without a document, in mm and rad."""

from anakinema.geometry.laws import MotionLaw, rise
from anakinema.geometry.poses import carried, turned_about
from anakinema.geometry.region import Region

__all__ = ["MotionLaw", "Region", "carried", "rise", "turned_about"]
