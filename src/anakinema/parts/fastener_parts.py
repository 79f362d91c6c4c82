"""Screws, nuts and washers as parts, by their standard; each has one place, on its axis.

A screw's head lies on height 0 and its shank reaches down, turned over for a head below; a
countersunk head ends at height 0. A nut and a washer stand on height 0. Sockets, chamfers and
threads are left out; a cone is four discs, each within it.
"""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts.fasteners import RINGS, Series, Thread
from anakinema.parts.making import circle, hexagon, place, slab

STEEL = model.Material(name="steel", density=7850.0)
CONE = 4
"""Discs that a cone is made of."""


def screw_part(
    series: Series, thread: Thread, kind: model.HeadKind, length: float, *, below: bool
) -> model.Part:
    """A screw of a length (mm)."""
    head, mm = thread.heads[kind], _mm
    shank = circle(mm(thread.diameter / 2))
    if kind == "countersunk":
        # From its face down: each disc as wide as the cone is at its lower end.
        step = head.height / CONE
        wide = [
            head.diameter - (head.diameter - thread.diameter) * (k + 1) / CONE for k in range(CONE)
        ]
        spans = [(-(k + 1) * step, -k * step, circle(mm(wide[k] / 2))) for k in range(CONE)]
        pieces: list[tuple[float, float, model.Outline]] = [*spans, (-length, -head.height, shank)]
    else:
        top = hexagon(mm(head.diameter)) if kind == "hexagon" else circle(mm(head.diameter / 2))
        pieces = [(0.0, head.height, top), (-length, 0.0, shank)]
    names = ["shank" if k == len(pieces) - 1 else f"head_{k + 1}" for k in range(len(pieces))]
    slabs = tuple(
        slab(name, mm(-high if below else low), mm(-low if below else high), outline)
        for name, (low, high, outline) in zip(names, pieces, strict=True)
    )
    title = f"{thread.name} x {series.length_words(length)} {series.heads[kind]}"
    return _bought(f"{title} turned" if below else title, title, slabs)


def nut_part(series: Series, thread: Thread) -> model.Part:
    """A hexagon nut."""
    bore = circle(_mm(thread.diameter / 2))
    nut = slab("nut", _mm(0.0), _mm(thread.nut_height), hexagon(_mm(thread.nut_flats)), bore=bore)
    title = f"{thread.name} nut {series.nut}"
    return _bought(title, title, (nut,))


def washer_part(series: Series, thread: Thread) -> model.Part:
    """A plain washer."""
    bore, outline = (circle(_mm(d / 2)) for d in (thread.washer_hole, thread.washer_outside))
    ring = slab("washer", _mm(0.0), _mm(thread.washer_thickness), outline, bore=bore)
    title = f"{thread.name} washer {series.washer}"
    return _bought(title, title, (ring,))


def retaining_ring_part(pin: float) -> model.Part:
    """A retaining ring on a pin of a diameter, closed: its gap and ears are left out."""
    thick, groove, _, wide = RINGS[pin]
    bore = circle(_mm(groove / 2))
    ring = slab("ring", _mm(0.0), _mm(thick), circle(_mm(groove / 2 + wide)), bore=bore)
    title = f"retaining ring {pin:g} x {thick:g} DIN 471"
    return _bought(title, title, (ring,))


def spacer_part(bore: float, outside: float, length: float) -> model.Part:
    """A tube between two layers, made to length."""
    hole, outline = (circle(_mm(d / 2)) for d in (bore, outside))
    tube = slab("tube", _mm(0.0), _mm(length), outline, bore=hole)
    title = f"spacer {bore:g} x {outside:g} x {length:g}"
    return _bought(title, title, (tube,)).model_copy(update={"supply": "made"})


def _mm(value: float) -> str:
    """A length as it is stated, whatever the units of the document."""
    return f"{value:.6f}".rstrip("0").rstrip(".") + " mm"


def _bought(unique: str, title: str, slabs: tuple[model.Slab, ...]) -> model.Part:
    letters = "".join(c if c.isascii() and c.isalnum() else "_" for c in unique.lower())
    name = "_".join(each for each in letters.split("_") if each)
    return model.Part(
        id=name if name[0].isalpha() else f"unc_{name}",
        name=title,
        colour="steel",
        places=(place("axis"),),
        slabs=slabs,
        material=STEEL,
        supply="bought",
    )
