"""Screws, nuts, washers and retaining rings of the sizes that mechanisms use.

All mm: coarse threads of ISO 261, and UNC by number and in inches (ASME B1.1). From memory, and
compared row by row with the tables of an independent package as far as it has them
(`tests/reference/test_fasteners.py`, which names the differences).
"""

from __future__ import annotations

import bisect
from collections.abc import Mapping
from dataclasses import dataclass

from anakinema.document.model import HeadKind


@dataclass(frozen=True, slots=True)
class Head:
    """diameter : across a round head (nominal, not knurled), or across the flats; height : nominal;
    shortest, longest : lengths that are usual with it."""

    diameter: float
    height: float
    shortest: float
    longest: float


@dataclass(frozen=True, slots=True)
class Thread:
    """A size. tap : drill of its core (ISO 2306; diameter less pitch). close, normal, loose :
    clearance holes (ISO 273, ASME B18.2.8). nut_flats, nut_height : ISO 4032 and ASME B18.2.2, the
    height greatest. washer : hole, outside, nominal thickness (ISO 7089, ASME B18.21.1 narrow)."""

    name: str
    diameter: float
    pitch: float
    tap: float
    close: float
    normal: float
    loose: float
    nut_flats: float
    nut_height: float
    washer_hole: float
    washer_outside: float
    washer_thickness: float
    heads: Mapping[HeadKind, Head]


def _thread(
    diameter: float,
    pitch: float,
    holes: tuple[float, float, float],
    nut: tuple[float, float],
    washer: tuple[float, float, float],
    **heads: tuple[float, float, float, float],
) -> Thread:
    made = {kind: Head(*heads[kind]) for kind in KINDS if kind in heads}
    tap = TAPS.get(diameter, diameter - pitch)
    return Thread(f"M{diameter:g}", diameter, pitch, tap, *holes, *nut, *washer, made)


KINDS: tuple[HeadKind, ...] = ("cap", "hexagon", "button", "countersunk")
TAPS = {2.5: 2.05, 8.0: 6.8, 12.0: 10.2}
"""Drills that are not the diameter less the pitch to the tenth."""
METRIC_THREADS = (
    _thread(2, 0.4, (2.2, 2.4, 2.6), (4, 1.6), (2.2, 5, 0.3),
            cap=(3.8, 2, 3, 20), hexagon=(4, 1.4, 16, 20)),
    _thread(2.5, 0.45, (2.7, 2.9, 3.1), (5, 2.0), (2.7, 6, 0.5),
            cap=(4.5, 2.5, 4, 25), hexagon=(5, 1.7, 16, 25)),
    _thread(3, 0.5, (3.2, 3.4, 3.6), (5.5, 2.4), (3.2, 7, 0.5), cap=(5.5, 3, 5, 30),
            hexagon=(5.5, 2, 20, 30), button=(5.7, 1.65, 6, 30), countersunk=(6, 1.7, 8, 30)),
    _thread(4, 0.7, (4.3, 4.5, 4.8), (7, 3.2), (4.3, 9, 0.8), cap=(7, 4, 6, 40),
            hexagon=(7, 2.8, 25, 40), button=(7.6, 2.2, 6, 40), countersunk=(8, 2.3, 8, 40)),
    _thread(5, 0.8, (5.3, 5.5, 5.8), (8, 4.7), (5.3, 10, 1), cap=(8.5, 5, 8, 50),
            hexagon=(8, 3.5, 25, 50), button=(9.5, 2.75, 8, 50), countersunk=(10, 2.8, 8, 50)),
    _thread(6, 1, (6.4, 6.6, 7), (10, 5.2), (6.4, 12, 1.6), cap=(10, 6, 8, 60),
            hexagon=(10, 4, 30, 60), button=(10.5, 3.3, 10, 60), countersunk=(12, 3.3, 8, 60)),
    _thread(8, 1.25, (8.4, 9, 10), (13, 6.8), (8.4, 16, 1.6), cap=(13, 8, 10, 80),
            hexagon=(13, 5.3, 40, 80), button=(14, 4.4, 12, 80), countersunk=(16, 4.4, 10, 80)),
    _thread(10, 1.5, (10.5, 11, 12), (16, 8.4), (10.5, 20, 2), cap=(16, 10, 16, 100),
            hexagon=(16, 6.4, 45, 100), button=(17.5, 5.5, 16, 100),
            countersunk=(20, 5.5, 12, 100)),
    _thread(12, 1.75, (13, 13.5, 14.5), (18, 10.8), (13, 24, 2.5), cap=(18, 12, 20, 120),
            hexagon=(18, 7.5, 50, 120), button=(21, 6.6, 20, 100),
            countersunk=(24, 6.5, 20, 100)),
    _thread(16, 2, (17, 17.5, 18.5), (24, 14.8), (17, 30, 3), cap=(24, 16, 25, 160),
            hexagon=(24, 10, 65, 160), button=(28, 8.8, 25, 100), countersunk=(30, 7.5, 30, 100)),
)  # fmt: skip
METRIC_LENGTHS: Mapping[HeadKind, tuple[float, ...]] = {
    "cap": (3, 4, 5, 6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110,
            120, 130, 140, 150, 160),
    "hexagon": (12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110, 120, 130, 140,
                150, 160),
    "button": (6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100),
    "countersunk": (8, 10, 12, 16, 20, 25, 30, 35, 40, 50, 60, 70, 80, 90, 100),
}  # fmt: skip
"""Usual lengths under the head; of a countersunk screw over all."""
INCH = 25.4


def _inch(
    name: str,
    diameter: float,
    per_inch: float,
    tap: float,
    holes: tuple[float, float, float],
    nut: tuple[float, float],
    washer: tuple[float, float, float],
    **heads: tuple[float, float, float, float],
) -> Thread:
    """A size with all numbers in inches."""

    def mm(value: float) -> float:
        return round(value * INCH, 6)

    return Thread(
        f"{name}-{per_inch:g} UNC",
        mm(diameter),
        INCH / per_inch,
        mm(tap),
        close=mm(holes[0]),
        normal=mm(holes[1]),
        loose=mm(holes[2]),
        nut_flats=mm(nut[0]),
        nut_height=mm(nut[1]),
        washer_hole=mm(washer[0]),
        washer_outside=mm(washer[1]),
        washer_thickness=mm(washer[2]),
        heads={kind: Head(*map(mm, heads[kind])) for kind in KINDS if kind in heads},
    )


INCH_THREADS = (
    _inch("#4", 0.112, 40, 0.0890, (0.120, 0.1285, 0.144), (1 / 4, 3 / 32), (0.125, 0.312, 0.032),
          cap=(0.183, 0.112, 1 / 4, 1.5)),
    _inch("#6", 0.138, 32, 0.1065, (0.154, 0.1695, 0.185), (5 / 16, 7 / 64), (0.156, 0.375, 0.049),
          cap=(0.226, 0.138, 1 / 4, 1.5)),
    _inch("#8", 0.164, 32, 0.1360, (0.180, 0.196, 0.213), (11 / 32, 1 / 8), (0.188, 0.438, 0.049),
          cap=(0.270, 0.164, 1 / 4, 2.0)),
    _inch("#10", 0.190, 24, 0.1495, (0.2055, 0.221, 0.238), (3 / 8, 1 / 8), (0.219, 0.500, 0.049),
          cap=(0.312, 0.190, 3 / 8, 2.5)),
    _inch("1/4", 0.250, 20, 0.2010, (17 / 64, 9 / 32, 19 / 64), (7 / 16, 7 / 32),
          (0.281, 0.625, 0.065), cap=(0.375, 0.250, 3 / 8, 4.0),
          hexagon=(7 / 16, 5 / 32, 1 / 2, 4.0)),
    _inch("5/16", 0.3125, 18, 0.2570, (21 / 64, 11 / 32, 23 / 64), (1 / 2, 17 / 64),
          (0.344, 0.688, 0.065), cap=(0.469, 0.3125, 1 / 2, 4.0),
          hexagon=(1 / 2, 13 / 64, 1 / 2, 4.0)),
    _inch("3/8", 0.375, 16, 0.3125, (25 / 64, 13 / 32, 27 / 64), (9 / 16, 21 / 64),
          (0.406, 0.812, 0.065), cap=(0.562, 0.375, 1 / 2, 4.0),
          hexagon=(9 / 16, 15 / 64, 3 / 4, 4.0)),
    _inch("1/2", 0.500, 13, 0.4219, (17 / 32, 9 / 16, 39 / 64), (3 / 4, 7 / 16),
          (0.531, 1.062, 0.095), cap=(0.750, 0.500, 3 / 4, 4.0),
          hexagon=(3 / 4, 5 / 16, 3 / 4, 4.0)),
)  # fmt: skip
_INCH_LENGTHS = tuple(
    round(each * INCH, 6)
    for each in (0.25, 0.375, 0.5, 0.625, 0.75, 0.875, 1, 1.25, 1.5, 1.75, 2, 2.25, 2.5, 2.75, 3,
                 3.25, 3.5, 3.75, 4)
)  # fmt: skip
INCH_LENGTHS: Mapping[HeadKind, tuple[float, ...]] = {
    "cap": _INCH_LENGTHS,
    "hexagon": _INCH_LENGTHS,
}


@dataclass(frozen=True, slots=True)
class Series:
    """Threads of one system with their usual lengths, and the standards of what goes with them."""

    threads: tuple[Thread, ...]
    lengths: Mapping[HeadKind, tuple[float, ...]]
    heads: Mapping[HeadKind, str]
    nut: str
    washer: str
    in_inches: bool

    def length_words(self, length: float) -> str:
        """'25', '1 1/4"'."""
        if not self.in_inches:
            return f"{length:g}"
        whole, eighths = divmod(round(length / INCH * 8), 8)
        part = ("", "1/8", "1/4", "3/8", "1/2", "5/8", "3/4", "7/8")[eighths]
        return " ".join(each for each in (str(whole) if whole else "", part) if each) + '"'


METRIC = Series(
    METRIC_THREADS,
    METRIC_LENGTHS,
    {"cap": "ISO 4762", "hexagon": "ISO 4014", "button": "ISO 7380-1", "countersunk": "ISO 10642"},
    "ISO 4032",
    "ISO 7089",
    False,
)
UNC = Series(
    INCH_THREADS,
    INCH_LENGTHS,
    {"cap": "ASME B18.3", "hexagon": "ASME B18.2.1"},
    "ASME B18.2.2",
    "ASME B18.21.1",
    True,
)
RINGS: Mapping[float, tuple[float, float, float, float]] = {
    3: (0.4, 2.8, 0.3, 0.8), 4: (0.4, 3.8, 0.3, 0.9), 5: (0.6, 4.8, 0.3, 1.1),
    6: (0.7, 5.7, 0.5, 1.3), 7: (0.8, 6.7, 0.5, 1.4), 8: (0.8, 7.6, 0.6, 1.5),
    9: (1.0, 8.6, 0.6, 1.7), 10: (1.0, 9.6, 0.6, 1.8), 12: (1.0, 11.5, 0.8, 1.8),
    14: (1.0, 13.4, 0.9, 2.1), 15: (1.0, 14.3, 1.1, 2.2), 16: (1.0, 15.2, 1.2, 2.2),
    18: (1.2, 17.0, 1.5, 2.4), 20: (1.2, 19.0, 1.5, 2.6), 22: (1.2, 21.0, 1.5, 2.8),
    25: (1.2, 23.9, 1.7, 3.0),
}  # fmt: skip
"""Retaining rings DIN 471 by the diameter of the pin: thickness, diameter of the groove, what must
stand beyond the groove, and how wide the ring is opposite its gap."""


def thread_for(hole: float, series: Series = METRIC) -> Thread | None:
    """The largest size whose close clearance hole is no larger than a hole; None if none is."""
    fitting = [thread for thread in series.threads if thread.close <= hole + 1e-6]
    return fitting[-1] if fitting else None


def next_length(
    thread: Thread, kind: HeadKind, least: float, series: Series = METRIC
) -> float | None:
    """The shortest usual length of at least so much; None where there is none."""
    head = thread.heads.get(kind)
    if head is None:
        return None
    lengths = [
        each for each in series.lengths[kind] if head.shortest - 1e-6 <= each <= head.longest + 1e-6
    ]
    k = bisect.bisect_left(lengths, least - 1e-6)
    return lengths[k] if k < len(lengths) else None
