"""Drawings on paper in the window: their preview, what they say, and their dimensions."""
