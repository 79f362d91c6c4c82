"""Anakinema: build linkages, step them through their motion, and know whether they do their job."""

__version__ = "0.1.0"
