"""Read and evaluate quantities such as ``46 mm``, ``3*crank`` or ``3/8 in + 2 mm``.

A small parser and an interpreter of our own: nothing a user types is ever handed to Python.
Every value carries its dimension, so that ``crank + 30 deg`` is refused where it is typed.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache

from anakinema.errors import ExpressionError
from anakinema.units import ANGLE, LENGTH, NUMBER, UNITS, Dimension, UnitSystem, dimension_words

MAX_LENGTH = 400
MAX_DEPTH = 60

_TOKEN = re.compile(
    r"\s*(?:(?P<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)"
    r"|(?P<name>[A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_][A-Za-z0-9_]*)?)"
    r"|(?P<operator>\*\*|[-+*/^(),°]))"
)


@dataclass(frozen=True, slots=True)
class Quantity:
    """A finite number in inside units (mm, rad, s) and what it measures."""

    value: float
    dimension: Dimension


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


def _error(text: str, what: str, remedy: str = "Correct the expression.") -> ExpressionError:
    return ExpressionError(what, where=f"expression '{text}'", remedy=remedy)


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
                raise _error(text, f"'{found}' is not understood here.")
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
            raise _error(self.text, "it is empty.", "Type a number, for instance 40 mm.")
        node = self.total()
        kind, token = self.peek()
        if kind != "end":
            raise _error(self.text, f"'{token}' is not expected there.")
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
            raise _error(self.text, "it is nested too deeply.", "Split it into parameters.")
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
                raise _error(self.text, "a closing bracket is missing.")
            return node
        shown = f"'{token}' stands where" if token else "it ends where"
        raise _error(self.text, f"{shown} a number or name is expected.")

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
            return Number(Quantity(value * factor, dimension))
        return Number(Quantity(value, NUMBER))

    def call(self, name: str) -> Node:
        if name not in _FUNCTIONS:
            known = ", ".join(sorted(_FUNCTIONS))
            raise _error(self.text, f"there is no function '{name}'.", f"Known are {known}.")
        self.take()
        arguments: list[Node] = [self.total()]
        while self.peek()[1] == ",":
            self.take()
            arguments.append(self.total())
        if self.take()[1] != ")":
            raise _error(self.text, "a closing bracket is missing.")
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
        raise _error(text[:40] + "…", f"it is longer than {MAX_LENGTH} characters.", "Split it.")
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
            return _look_up(expression.text, node.text, names)
        arguments = [visit(argument) for argument in node.arguments]
        return _apply(expression.text, node.symbol, arguments)

    result = visit(expression.root)
    if not math.isfinite(result.value):
        raise _error(expression.text, "the result is not a finite number.")
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
    raise _error(
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


def _look_up(text: str, name: str, names: Mapping[str, Quantity]) -> Quantity:
    if name in names:
        return names[name]
    if name == "pi":
        return Quantity(math.pi, NUMBER)
    if name in UNITS:
        factor, dimension = UNITS[name]
        return Quantity(factor, dimension)
    raise _error(
        text,
        f"there is no parameter or dimension '{name}'.",
        "Define it under parameters, or correct the name.",
    )


def _apply(text: str, symbol: str, arguments: list[Quantity]) -> Quantity:
    values = [argument.value for argument in arguments]
    dimensions = [argument.dimension for argument in arguments]
    try:
        if symbol in ("+", "-"):
            if dimensions[0] != dimensions[1]:
                first, second = (dimension_words(d) for d in dimensions)
                raise _error(text, f"{first} and {second} cannot be added.", "Give both a unit.")
            total = values[0] + values[1] if symbol == "+" else values[0] - values[1]
            return Quantity(total, dimensions[0])
        if symbol == "negate":
            return Quantity(-values[0], dimensions[0])
        if symbol in ("*", "/"):
            sign = 1 if symbol == "*" else -1
            length, angle, time, mass = (a + sign * b for a, b in zip(*dimensions, strict=True))
            product = values[0] * values[1] if sign > 0 else values[0] / values[1]
            return Quantity(product, (length, angle, time, mass))
        if symbol == "^":
            return _power(text, arguments)
        return _FUNCTIONS[symbol](text, arguments)
    except ZeroDivisionError as error:
        raise _error(text, "it divides by zero.") from error
    except (OverflowError, ValueError) as error:
        if isinstance(error, ExpressionError):
            raise
        raise _error(text, "it has no real, finite result.") from error


def _power(text: str, arguments: list[Quantity]) -> Quantity:
    base, exponent = arguments
    if exponent.dimension != NUMBER:
        raise _error(text, "an exponent must be a plain number.")
    result = base.value**exponent.value
    if isinstance(result, complex):
        raise _error(text, "it is a root of a negative number.")
    if base.dimension == NUMBER:
        return Quantity(result, NUMBER)
    scaled = [part * exponent.value for part in base.dimension]
    if any(part != int(part) for part in scaled):
        raise _error(text, "a length to a broken power has no unit.")
    length, angle, time, mass = (int(part) for part in scaled)
    return Quantity(result, (length, angle, time, mass))


def _one(text: str, arguments: list[Quantity]) -> Quantity:
    if len(arguments) != 1:
        raise _error(text, "the function takes one value.")
    return arguments[0]


def _trigonometric(function: Callable[[float], float]) -> Function:
    def call(text: str, arguments: list[Quantity]) -> Quantity:
        argument = _one(text, arguments)
        if argument.dimension not in (ANGLE, NUMBER):
            raise _error(text, "an angle is needed.", "For instance sin(30 deg).")
        return Quantity(function(argument.value), NUMBER)

    return call


def _inverse(function: Callable[[float], float]) -> Function:
    def call(text: str, arguments: list[Quantity]) -> Quantity:
        argument = _one(text, arguments)
        if argument.dimension != NUMBER:
            raise _error(text, "a plain number is needed.", "Divide two lengths.")
        return Quantity(function(argument.value), ANGLE)

    return call


def _square_root(text: str, arguments: list[Quantity]) -> Quantity:
    return _power(text, [_one(text, arguments), Quantity(0.5, NUMBER)])


def _absolute(text: str, arguments: list[Quantity]) -> Quantity:
    argument = _one(text, arguments)
    return Quantity(abs(argument.value), argument.dimension)


def _extreme(choose: Callable[[list[float]], float]) -> Function:
    def call(text: str, arguments: list[Quantity]) -> Quantity:
        if len({argument.dimension for argument in arguments}) != 1:
            raise _error(text, "the values have different units.", "Give all the same kind.")
        return Quantity(choose([a.value for a in arguments]), arguments[0].dimension)

    return call


def _arctangent2(text: str, arguments: list[Quantity]) -> Quantity:
    if len(arguments) != 2 or arguments[0].dimension != arguments[1].dimension:
        raise _error(text, "atan2 takes two values of the same kind.")
    return Quantity(math.atan2(arguments[0].value, arguments[1].value), ANGLE)


Function = Callable[[str, list[Quantity]], Quantity]

_FUNCTIONS: dict[str, Function] = {
    "sin": _trigonometric(math.sin),
    "cos": _trigonometric(math.cos),
    "tan": _trigonometric(math.tan),
    "asin": _inverse(math.asin),
    "acos": _inverse(math.acos),
    "atan": _inverse(math.atan),
    "atan2": _arctangent2,
    "sqrt": _square_root,
    "abs": _absolute,
    "min": _extreme(min),
    "max": _extreme(max),
}
