"""Slabs with every outline and hole changed the same way."""

from __future__ import annotations

from collections.abc import Callable

from anakinema.document.model import Outline, Slab


def with_outlines(
    slabs: tuple[Slab, ...], change: Callable[[Outline], Outline]
) -> tuple[Slab, ...]:
    """The slabs with their outlines and their holes' outlines changed, all else kept."""
    return tuple(
        slab.model_copy(
            update={
                "outline": change(slab.outline),
                "holes": tuple(
                    hole.model_copy(update={"outline": change(hole.outline)}) for hole in slab.holes
                ),
            }
        )
        for slab in slabs
    )
