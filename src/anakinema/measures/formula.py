"""A formula of kept measures, parameters and numbers, at every pose."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.measured import measured_as
from anakinema.document.resolve import Resolved
from anakinema.errors import ExpressionError
from anakinema.expression_functions import Quantity
from anakinema.expressions import Expression, evaluate, parse
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Unanswered
from anakinema.measures.bracketed import Bracketed
from anakinema.measures.located import Located
from anakinema.measures.subject import Measure, OffLane, Subject
from anakinema.motion.motion import Motion, States
from anakinema.units import Dimension

Maker = Callable[[Resolved, model.Measure], Measure]


@dataclass(frozen=True)
class CannotBeMade(OffLane):
    """What cannot be judged, and why: a code of `anakinema.findings.wording`."""

    reason: str

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """None."""
        return Unanswered(self.reason)


@dataclass(frozen=True, eq=False)
class Formula(Bracketed):
    """The value of an expression whose names are kept measures, or numbers of the document."""

    expression: Expression
    made_of: Mapping[str, tuple[Located, Dimension]]
    names: Mapping[str, Quantity]
    dimension: Dimension

    def over(self, motion: Motion, at: States) -> Floats:
        """(N,) in inside units; NaN where it is not defined or gives something else."""
        columns = {name: each.over(motion, at) for name, (each, _) in self.made_of.items()}
        found = np.full(len(at.progress), np.nan)
        for k in range(len(found)):
            here = {
                name: Quantity(float(columns[name][k]), dimension)
                for name, (_, dimension) in self.made_of.items()
            }
            try:
                made = evaluate(self.expression, {**self.names, **here})
            except ExpressionError:
                continue
            if made.dimension == self.dimension:
                found[k] = made.value
        return found


def _gives_another(
    expression: Expression,
    made_of: Mapping[str, tuple[Located, Dimension]],
    names: Mapping[str, Quantity],
    dimension: Dimension,
) -> bool:
    """Whether an expression gives something of another dimension, or mixes units."""
    # Some numbers, no two of them alike: what is divided by should not be zero.
    like = {name: Quantity(2.0 + 0.7 * k, made_of[name][1]) for k, name in enumerate(made_of)}
    try:
        return evaluate(expression, {**names, **like}).dimension != dimension
    except ExpressionError:
        return True


def formula(
    resolved: Resolved,
    measure: model.FormulaMeasure,
    maker: Maker,
    under_way: frozenset[str] = frozenset(),
) -> Measure:
    """The measure of a resolved document; ``maker`` makes those that it names.

    ``under_way``: kept measures that are being made already: one of them cannot be named again.
    """
    kept = {each.id: each.measure for each in resolved.document.measures}
    kinds = joint_kinds(resolved.document)
    expression = parse(measure.text)
    made_of: dict[str, tuple[Located, Dimension]] = {}
    for name in sorted(expression.names & kept.keys()):
        if name in under_way:
            return CannotBeMade("refers to itself")
        inner = kept[name]
        if isinstance(inner, model.FormulaMeasure):
            made: Measure = formula(resolved, inner, maker, under_way | {name})
        else:
            made = maker(resolved, inner)
        if isinstance(made, CannotBeMade):
            return made
        if not isinstance(made, Located):
            return CannotBeMade("no value at a pose")
        made_of[name] = made, measured_as(inner).dimension(inner, kinds)
    if expression.names - made_of.keys() - resolved.names.keys():
        return CannotBeMade("names nothing known")
    dimension = measured_as(measure).dimension(measure, kinds)
    if _gives_another(expression, made_of, resolved.names, dimension):
        return CannotBeMade("another unit")
    return Formula(expression, made_of, resolved.names, dimension)
