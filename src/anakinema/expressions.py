"""Read and evaluate quantities such as ``46 mm``, ``3*crank`` or ``3/8 in + 2 mm``.

A small parser and an interpreter of our own: nothing a user types is ever handed to Python.
Every value carries its dimension, so that ``crank + 30 deg`` is refused where it is typed.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from anakinema.expression_functions import FUNCTIONS, Quantity, apply, expression_error, look_up
from anakinema.units import ANGLE, LENGTH, NUMBER, UNITS, Dimension, UnitSystem, dimension_words

MAX_LENGTH = 400
MAX_DEPTH = 60
MAX_POWER = 9
"""Of a unit."""
_TOKEN = re.compile(
    r"\s*(?:(?P<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)"
    r"|(?P<name>[A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_][A-Za-z0-9_]*)?)"
    r"|(?P<operator>\*\*|[-+*/^(),°]))"
)


@dataclass(frozen=True, slots=True)
class Number:
    """A literal, already in inside units if a unit stood behind it."""

    quantity: Quantity


@dataclass(frozen=True, slots=True)
class Name:
    """A parameter, or a dimension of a part as ``part.dimension``."""

    text: str


@dataclass(frozen=True, slots=True)
class Operation:
    """An operator or function applied to its arguments."""

    symbol: str
    arguments: tuple[Node, ...]


Node = Number | Name | Operation


@dataclass(frozen=True, slots=True)
class Expression:
    """A parsed expression and the names it needs."""

    text: str
    root: Node
    names: frozenset[str]


class _Parser:
    """Recursive descent over the tokens of one expression."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens: list[tuple[str, str]] = []
        position = 0
        stripped = text.rstrip()
        while position < len(stripped):
            match = _TOKEN.match(stripped, position)
            if match is None:
                found = stripped[position:].lstrip()[:1]
                raise expression_error(text, f"'{found}' is not understood here.")
            kind = str(match.lastgroup)
            self.tokens.append((kind, match.group(kind)))
            position = match.end()
        self.index = 0
        self.depth = 0

    def peek(self) -> tuple[str, str]:
        return self.tokens[self.index] if self.index < len(self.tokens) else ("end", "")

    def take(self) -> tuple[str, str]:
        token = self.peek()
        self.index += 1
        return token

    def parse(self) -> Node:
        if not self.tokens:
            raise expression_error(self.text, "it is empty.", "Type a number, for instance 40 mm.")
        node = self.total()
        kind, token = self.peek()
        if kind != "end":
            raise expression_error(self.text, f"'{token}' is not expected there.")
        return node

    def total(self) -> Node:
        node = self.product()
        while self.peek()[1] in ("+", "-"):
            node = Operation(self.take()[1], (node, self.product()))
        return node

    def product(self) -> Node:
        node = self.signed()
        while self.peek()[1] in ("*", "/"):
            node = Operation(self.take()[1], (node, self.signed()))
        return node

    def signed(self) -> Node:
        self.depth += 1
        if self.depth > MAX_DEPTH:
            raise expression_error(
                self.text, "it is nested too deeply.", "Split it into parameters."
            )
        try:
            if self.peek()[1] == "-":
                self.take()
                return Operation("negate", (self.signed(),))
            if self.peek()[1] == "+":
                self.take()
                return self.signed()
            return self.power()
        finally:
            self.depth -= 1

    def power(self) -> Node:
        base = self.atom()
        if self.peek()[1] in ("^", "**"):
            self.take()
            return Operation("^", (base, self.signed()))
        return base

    def atom(self) -> Node:
        kind, token = self.take()
        if kind == "number":
            return self.with_unit(self.fraction(float(token)))
        if kind == "name":
            if self.peek()[1] == "(":
                return self.call(token)
            return Name(token)
        if token == "(":
            node = self.total()
            if self.take()[1] != ")":
                raise expression_error(self.text, "a closing bracket is missing.")
            return node
        shown = f"'{token}' stands where" if token else "it ends where"
        raise expression_error(self.text, f"{shown} a number or name is expected.")

    def fraction(self, value: float) -> float:
        """``3/8 in`` is three eighths of an inch: a fraction before a unit belongs to it."""
        ahead = self.tokens[self.index : self.index + 3]
        if len(ahead) == 3 and ahead[0][1] == "/" and ahead[1][0] == "number":
            unit = "deg" if ahead[2][1] == "°" else ahead[2][1]
            if unit in UNITS and float(ahead[1][1]) != 0.0:
                self.index += 2
                return value / float(ahead[1][1])
        return value

    def with_unit(self, value: float) -> Node:
        kind, token = self.peek()
        if token == "°":
            token = "deg"
        if (kind == "name" or token == "deg") and token in UNITS:
            self.take()
            factor, dimension = UNITS[token]
            return Number(self.divided(Quantity(value * factor, dimension)))
        return Number(Quantity(value, NUMBER))

    def divided(self, quantity: Quantity) -> Quantity:
        """``30 mm/s`` and ``2 m/s^2``: no name can be that of a unit, so a unit is meant."""
        ahead = [token for _, token in self.tokens[self.index : self.index + 4]]
        while ahead[:1] == ["/"] and ahead[1:2] and ahead[1] in UNITS and ahead[2:3] != ["("]:
            factor, dimension = UNITS[ahead[1]]
            power, taken = 1, 2
            if ahead[2:3] in (["^"], ["**"]) and ahead[3:4] and ahead[3].isdigit():
                power, taken = min(int(ahead[3]), MAX_POWER), 4
            self.index += taken
            length, angle, time, mass = (
                one - power * other
                for one, other in zip(quantity.dimension, dimension, strict=True)
            )
            quantity = Quantity(quantity.value / factor**power, (length, angle, time, mass))
            ahead = [token for _, token in self.tokens[self.index : self.index + 4]]
        return quantity

    def call(self, name: str) -> Node:
        if name not in FUNCTIONS:
            known = ", ".join(sorted(FUNCTIONS))
            raise expression_error(
                self.text, f"there is no function '{name}'.", f"Known are {known}."
            )
        self.take()
        arguments: list[Node] = [self.total()]
        while self.peek()[1] == ",":
            self.take()
            arguments.append(self.total())
        if self.take()[1] != ")":
            raise expression_error(self.text, "a closing bracket is missing.")
        return Operation(name, tuple(arguments))


def _names(node: Node) -> frozenset[str]:
    if isinstance(node, Name):
        return frozenset((node.text,))
    if isinstance(node, Operation):
        return frozenset().union(*(_names(argument) for argument in node.arguments))
    return frozenset()


@lru_cache(maxsize=8192)
def parse(text: str) -> Expression:
    """Parse an expression; raises `ExpressionError` that quotes it."""
    if len(text) > MAX_LENGTH:
        raise expression_error(
            text[:40] + "…", f"it is longer than {MAX_LENGTH} characters.", "Split it."
        )
    root = _Parser(text).parse()
    return Expression(text, root, _names(root) - frozenset(("pi",)))


def evaluate(expression: Expression, names: Mapping[str, Quantity]) -> Quantity:
    """Evaluate with the given named quantities.

    Raises `ExpressionError` for an unknown name, mixed units, division by zero, or a result
    that is not a finite real number.
    """

    def visit(node: Node) -> Quantity:
        if isinstance(node, Number):
            return node.quantity
        if isinstance(node, Name):
            return look_up(expression.text, node.text, names)
        arguments = [visit(argument) for argument in node.arguments]
        return apply(expression.text, node.symbol, arguments)

    result = visit(expression.root)
    if not math.isfinite(result.value):
        raise expression_error(expression.text, "the result is not a finite number.")
    return result


def quantity_in(
    source: float | str, dimension: Dimension, units: UnitSystem, names: Mapping[str, Quantity]
) -> float:
    """Value of a field in inside units.

    A plain number, or an expression whose result has no unit, is taken in the document's own
    units. A result of another dimension is refused.
    """
    if not isinstance(source, str):
        return float(source) * units.factor(dimension)
    result = evaluate(parse(source), names)
    if result.dimension == dimension:
        return result.value
    if result.dimension == NUMBER:
        return result.value * units.factor(dimension)
    raise expression_error(
        source,
        f"it gives {dimension_words(result.dimension)}, {dimension_words(dimension)} is needed.",
        f"For instance 10 {units.symbol(dimension)}.".replace("°", "deg"),
    )


_PLAIN = re.compile(r"\s*[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?\s*")
_ENDS_IN_UNIT = re.compile(r"(?:^|[\d\s.)])(?P<unit>[a-z]+|°)\s*$")


def with_names(text: str, names: Mapping[str, str]) -> str:
    """An expression with some of its names called otherwise; all else stays as it was typed."""
    out, position = [], 0
    while (match := _TOKEN.match(text, position)) is not None:
        name = match.group("name")
        if name in names:
            out.append(text[position : match.start("name")] + names[name])
        else:
            out.append(match.group(0))
        position = match.end()
    return "".join(out) + text[position:]


def is_plain(text: str) -> bool:
    """Whether an expression is a bare number."""
    return _PLAIN.fullmatch(text) is not None


def completed(text: str, like: str, units: UnitSystem) -> str:
    """``text`` with the document's unit behind it, if it is a bare number typed where a quantity
    with a unit stood (``like``): 100 for ``120 mm`` means 100 mm, or 100 in."""
    match = _ENDS_IN_UNIT.search(like)
    if match is None or not is_plain(text):
        return text
    name = "deg" if match["unit"] == "°" else match["unit"]
    if name not in UNITS:
        return text
    dimension = UNITS[name][1]
    symbol = units.length if dimension == LENGTH else units.angle if dimension == ANGLE else name
    return f"{text.strip()} {symbol}"
