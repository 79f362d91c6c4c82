"""A number of something that is only being drafted: read as it is typed, in any unit."""

from __future__ import annotations

from collections.abc import Callable

from anakinema.errors import AnakinemaError
from anakinema.expressions import completed, quantity_in
from anakinema.ui.fields import QuantityField
from anakinema.ui.workbench import Workbench
from anakinema.units import Dimension, UnitSystem


def draft_field(
    workbench: Workbench,
    name: str,
    text: str,
    dimension: Dimension,
    take: Callable[[float, str], None],
) -> QuantityField:
    """A field that hands on each sound value (mm, rad or plain) and its words, with a unit."""
    field = QuantityField(text, name)

    def changed(typed: str) -> None:
        scene = workbench.scene
        if scene is None or not typed.strip():
            return
        units = workbench.session.document.units
        stated = completed(typed, text, UnitSystem(units.length, units.angle)) if text else typed
        try:
            value = quantity_in(stated, dimension, scene.resolved.units, scene.resolved.names)
        except AnakinemaError as error:
            field.set_wrong(f"{error.what} {error.remedy}")
            return
        field.set_wrong("")
        take(value, stated)

    field.changing.connect(changed)
    return field
