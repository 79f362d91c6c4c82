"""Exact outlines, curves, wheels and cams: values without a document, in mm and rad."""

from anakinema.geometry.hiding import hidden_from_above
from anakinema.geometry.laws import MotionLaw, rise
from anakinema.geometry.poses import carried, turned_about
from anakinema.geometry.region import Region

__all__ = ["MotionLaw", "Region", "carried", "hidden_from_above", "rise", "turned_about"]
