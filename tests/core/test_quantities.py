"""Numbers know what they measure by the types of their fields."""

from __future__ import annotations

import math

import pytest

from anakinema.document import model as m
from anakinema.document.dimensions import By, dimensions_of
from anakinema.document.quantities import measured_anew, rewritten, sources
from anakinema.document.resolve import resolve
from anakinema.edits.measured_in import SetUnits
from anakinema.errors import ExpressionError, ValueOutOfRangeError
from anakinema.expressions import evaluate, parse, quantity_in
from anakinema.files.native import read_document
from anakinema.resources import demo_names, demo_path
from anakinema.units import ANGLE, FORCE, LENGTH, MASS, NUMBER, UNITS, UnitSystem
from tests import mechanisms as build


def driven_bar() -> m.Document:
    """A bar on a pin, in degrees."""
    parts = [build.part("base", o=(0, 0)), build.part("bar", a=(0, 0), b=(40, 0))]
    bodies = [build.body("base", fixed=True), build.body("bar")]
    joints = [build.joint("pin", "revolute", "base.o", "bar.a")]
    driver = m.Driver(id="turn", joint="pin", start="20 deg", rate="10 rpm")
    stage = m.Stage(moves=(m.Move(driver="turn", to="200 deg"),), count=30)
    program = m.Program(drivers=(driver,), stages=(stage,))
    return build.document(parts, bodies, joints, program=program).model_copy(
        update={"units": m.Units(angle="deg")}
    )


def classes(base: type[m.Model] = m.Model) -> list[type[m.Model]]:
    found = []
    for each in base.__subclasses__():
        found += [each, *classes(each)]
    return found


@pytest.mark.parametrize("kind", classes(), ids=lambda kind: kind.__name__)
def test_every_quantity_of_the_model_says_what_it_measures(kind: type[m.Model]) -> None:
    """What takes a number or an expression is a quantity: its schema says so."""
    properties = kind.model_json_schema().get("properties", {})
    either = {
        name
        for name, stated in properties.items()
        if {"number", "string"} <= {each.get("type") for each in stated.get("anyOf", ())}
    }
    assert set(dimensions_of(kind)) == either


def test_a_field_is_read_by_its_type_and_a_count_must_be_whole() -> None:
    reader = resolve(m.Document(units=m.Units(length="in"))).reader
    rack = m.ToothedRack(shape="toothed_rack", module=1.0, teeth=20, depth=2.0, turned="1 rad")
    assert reader.fields(rack, "module teeth depth turned", "rack") == (25.4, 20, 50.8, 1.0)
    with pytest.raises(ExpressionError, match="an angle, a length is needed"):
        reader.field(rack.model_copy(update={"module": "3 deg"}), "module", "rack")
    with pytest.raises(ValueError, match="20.5 is no number of teeth"):
        reader.field(rack.model_copy(update={"teeth": 20.5}), "teeth", "rack")
    limits = m.Limits(least=1.0)
    with pytest.raises(TypeError, match="the kind of its joint"):
        reader.field(limits, "least", "limits")


@pytest.mark.parametrize("name", demo_names())
def test_a_walk_meets_every_quantity_with_its_dimension(name: str) -> None:
    """Each can be read as what it is said to measure, and what is not changed stays the same."""
    document = read_document(demo_path(name))
    reader = resolve(document).reader
    seen: list[m.Quantity] = []

    def look(source: float | str, place) -> float | str:  # type: ignore[no-untyped-def]
        seen.append(source)
        if place.dimension is not None:
            local = reader if place.part is None else reader.within(place.part)
            value = quantity_in(source, place.dimension, reader.units, local.names)
            assert math.isfinite(value)
        return source

    assert measured_anew(document, look) == document
    assert seen == list(sources(document))
    assert list(sources(rewritten(document, lambda _: 7.0))) == [7.0] * len(seen)


def test_by_says_all_that_a_field_alone_cannot() -> None:
    used = {each.what for kind in classes() for each in dimensions_of(kind).values()}
    assert used & set(By) == set(By)
    assert {LENGTH, ANGLE, NUMBER} < used


@pytest.mark.parametrize(
    ("field", "words"), [("program", "driver"), ("requirements", "requirement")]
)
def test_units_are_refused_wherever_an_expression_leans_on_a_bare_number(
    field: str, words: str
) -> None:
    document = driven_bar()
    if field == "program":
        (driver,) = document.program.drivers
        stated = driver.model_copy(update={"rate": "2*15"})
        value: object = document.program.model_copy(update={"drivers": (stated,)})
    else:
        joint = document.program.drivers[0].joint
        value = (build.asked("swing", "joint", "range", joint=joint, least="2*3"),)
    leaning = document.model_copy(update={field: value})
    with pytest.raises(ValueOutOfRangeError, match="no unit") as caught:
        SetUnits("mm", "rad").apply(leaning)
    assert words in caught.value.where
    assert SetUnits("in", "deg").apply(leaning).units.length == "in"


def test_a_bare_rate_in_quotes_keeps_its_speed() -> None:
    document = driven_bar()
    (driver,) = document.program.drivers
    quoted = driver.model_copy(update={"rate": "30"})
    program = document.program.model_copy(update={"drivers": (quoted,)})
    before = document.model_copy(update={"program": program})
    after = SetUnits("in", "rad").apply(before)
    rates = [resolve(each).program.rates for each in (before, after)]
    assert rates[1] == pytest.approx(rates[0])


def test_mass_and_force_are_units_like_others() -> None:
    """A newton is the force that gives a kilogram 1 m/s² (SI Brochure, 9th edition)."""
    force = evaluate(parse("2 kg * 3 m / (1 s)^2"), {})
    assert (force.value, force.dimension) == (6 * UNITS["N"][0], FORCE)
    assert evaluate(parse("500 N / 5 N * 1 kg"), {}).dimension == MASS
    with pytest.raises(ExpressionError, match="a mass, a length is needed"):
        quantity_in("2 kg", LENGTH, UnitSystem(), {})
    for unit in (UnitSystem("in", "rad"), UnitSystem()):
        for dimension in (LENGTH, ANGLE, FORCE, MASS):
            assert evaluate(parse(f"1 {unit.name(dimension)}"), {}).dimension == dimension
