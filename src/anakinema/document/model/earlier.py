"""What files and journals of version 1 hold, as it is written today.

Belts were called loops, instances of subassemblies uses of units.
A requirement had one of five kinds, each with its own fields; a kept measure was a distance.
"""

from __future__ import annotations

from typing import Any

MADE_OF = {
    "travel": ("joint", "range"),
    "reserve": ("reserve", "least"),
    "transmission": ("transmission", "least"),
    "time_ratio": ("joint", "time_ratio"),
    "gap": ("gap", "least"),
}
"""Kinds of requirements of version 1: what they measure, and what is made of it."""
ASKED = ("id", "name", "least", "greatest", "comfort")
"""Their fields that are those of a requirement still; the others say what is measured."""


CALLED = {"loops": "belts", "uses": "instances", "unit": "subassembly"}
"""Names of fields in version 1, and those of today."""


def named_today(data: Any) -> Any:
    """A document's, subassembly's or instance's data with the fields called as today."""
    if not isinstance(data, dict) or not CALLED.keys() & data.keys():
        return data
    # A name that is there already is kept, so that what is doubled is refused.
    return {
        key if CALLED.get(key, key) in data else CALLED.get(key, key): data[key] for key in data
    }


def requirement_today(data: Any) -> Any:
    """A requirement's data; what is no requirement of version 1 comes back as it is."""
    if not isinstance(data, dict) or data.get("kind") not in MADE_OF:
        return data
    measured, reduce = MADE_OF[data["kind"]]
    stated = {key: value for key, value in data.items() if key not in (*ASKED, "kind")}
    asked = {key: data[key] for key in ASKED if key in data}
    return {**asked, "measure": {**stated, "kind": measured}, "reduce": reduce}


def measure_today(data: Any) -> Any:
    """A kept measure's data; what is none of version 1 comes back as it is."""
    if not isinstance(data, dict) or not {"first", "second"} <= set(data):
        return data
    stated = {key: data[key] for key in data if key not in ("id", "name")}
    named = {key: data[key] for key in ("id", "name") if key in data}
    return {**named, "measure": {**stated, "kind": "distance"}}
