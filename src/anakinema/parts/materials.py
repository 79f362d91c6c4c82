"""Common materials and how dense they are."""

from __future__ import annotations

from anakinema.document import model

MATERIALS = {
    "steel": 7850.0,
    "aluminium": 2700.0,
    "brass": 8500.0,
    "acetal": 1410.0,
    "plywood": 680.0,
}
"""kg/m³, common practice, no source; type another density where it matters."""


def material_named(name: str) -> model.Material | None:
    """A common material by its name; None for none of these."""
    return model.Material(name=name, density=MATERIALS[name]) if name in MATERIALS else None
