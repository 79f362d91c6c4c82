"""Quantities stated anew: sums, products and means of numbers and expressions, as expressions.

A plain number is in the document's unit; beside an expression, which has units of its own, that
unit is written behind it.
"""

from __future__ import annotations

Source = float | str


def times(source: Source, factor: float) -> Source:
    """A quantity times a number, as an expression where it is one."""
    if isinstance(source, str):
        return f"({source})*{factor:g}"
    return source * factor


def middle_of(a: Source, b: Source, unit: str) -> Source:
    """The mean of two quantities, as an expression where one of them is."""
    if a == b:
        return a
    if not isinstance(a, str) and not isinstance(b, str):
        return (a + b) / 2
    if a in (0, 0.0) or b in (0, 0.0):
        return f"({_text(b if a in (0, 0.0) else a, unit)})/2"
    return f"({_text(a, unit)} + {_text(b, unit)})/2"


def beside(middle: Source, extent: Source, sign: int, unit: str) -> Source:
    """Half an extent beside a middle, as an expression where one of them is."""
    if sign == 0:
        return middle
    if not isinstance(middle, str) and not isinstance(extent, str):
        return middle + sign * extent / 2
    half = f"({_text(extent, unit)})/2"
    if middle in (0, 0.0):
        return half if sign > 0 else f"-{half}"
    return f"{_text(middle, unit)} {'+' if sign > 0 else '-'} {half}"


def _text(source: Source, unit: str) -> str:
    return source if isinstance(source, str) else f"{source:.12g} {unit}"


def sum_of(*terms: tuple[float, Source], unit: str) -> Source:
    """A sum of quantities times numbers; plain numbers get the document's unit beside others."""
    if all(not isinstance(source, str) for _, source in terms):
        return sum(factor * float(source) for factor, source in terms)
    if len(terms) == 2 and terms[0][1] == terms[1][1] and terms[0][0] == -terms[1][0]:
        return 0.0
    words = []
    for factor, source in terms:
        if source in (0, 0.0) or factor == 0.0:
            continue
        text = f"({source})" if isinstance(source, str) else f"{source:.12g} {unit}"
        words.append(text if factor == 1.0 else f"{factor:.12g}*{text}")
    return " + ".join(words) if words else 0.0
