"""What expressions are worked out with: operators and functions on quantities."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from anakinema.errors import ExpressionError
from anakinema.units import ANGLE, NUMBER, UNITS, Dimension, dimension_words


@dataclass(frozen=True, slots=True)
class Quantity:
    """A finite number in inside units (mm, rad, s) and what it measures."""

    value: float
    dimension: Dimension


def expression_error(
    text: str, what: str, remedy: str = "Correct the expression."
) -> ExpressionError:
    return ExpressionError(what, where=f"expression '{text}'", remedy=remedy)


def look_up(text: str, name: str, names: Mapping[str, Quantity]) -> Quantity:
    if name in names:
        return names[name]
    if name == "pi":
        return Quantity(math.pi, NUMBER)
    if name in UNITS:
        factor, dimension = UNITS[name]
        return Quantity(factor, dimension)
    raise expression_error(
        text,
        f"there is no parameter or dimension '{name}'.",
        "Define it under parameters, or correct the name.",
    )


def apply(text: str, symbol: str, arguments: list[Quantity]) -> Quantity:
    values = [argument.value for argument in arguments]
    dimensions = [argument.dimension for argument in arguments]
    try:
        if symbol in ("+", "-"):
            if dimensions[0] != dimensions[1]:
                first, second = (dimension_words(d) for d in dimensions)
                raise expression_error(
                    text, f"{first} and {second} cannot be added.", "Give both a unit."
                )
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
        return FUNCTIONS[symbol](text, arguments)
    except ZeroDivisionError as error:
        raise expression_error(text, "it divides by zero.") from error
    except (OverflowError, ValueError) as error:
        if isinstance(error, ExpressionError):
            raise
        raise expression_error(text, "it has no real, finite result.") from error


def _power(text: str, arguments: list[Quantity]) -> Quantity:
    base, exponent = arguments
    if exponent.dimension != NUMBER:
        raise expression_error(text, "an exponent must be a plain number.")
    result = base.value**exponent.value
    if isinstance(result, complex):
        raise expression_error(text, "it is a root of a negative number.")
    if base.dimension == NUMBER:
        return Quantity(result, NUMBER)
    scaled = [part * exponent.value for part in base.dimension]
    if any(part != int(part) for part in scaled):
        raise expression_error(text, "a length to a broken power has no unit.")
    length, angle, time, mass = (int(part) for part in scaled)
    return Quantity(result, (length, angle, time, mass))


def _one(text: str, arguments: list[Quantity]) -> Quantity:
    if len(arguments) != 1:
        raise expression_error(text, "the function takes one value.")
    return arguments[0]


def _trigonometric(function: Callable[[float], float]) -> Function:
    def call(text: str, arguments: list[Quantity]) -> Quantity:
        argument = _one(text, arguments)
        if argument.dimension not in (ANGLE, NUMBER):
            raise expression_error(text, "an angle is needed.", "For instance sin(30 deg).")
        return Quantity(function(argument.value), NUMBER)

    return call


def _inverse(function: Callable[[float], float]) -> Function:
    def call(text: str, arguments: list[Quantity]) -> Quantity:
        argument = _one(text, arguments)
        if argument.dimension != NUMBER:
            raise expression_error(text, "a plain number is needed.", "Divide two lengths.")
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
            raise expression_error(
                text, "the values have different units.", "Give all the same kind."
            )
        return Quantity(choose([a.value for a in arguments]), arguments[0].dimension)

    return call


def _arctangent2(text: str, arguments: list[Quantity]) -> Quantity:
    if len(arguments) != 2 or arguments[0].dimension != arguments[1].dimension:
        raise expression_error(text, "atan2 takes two values of the same kind.")
    return Quantity(math.atan2(arguments[0].value, arguments[1].value), ANGLE)


Function = Callable[[str, list[Quantity]], Quantity]
FUNCTIONS: dict[str, Function] = {
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
