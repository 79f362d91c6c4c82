"""Mirror images of parts and joints, told in the same expressions."""

from __future__ import annotations

from anakinema.building.slabs import with_outlines
from anakinema.document import model
from anakinema.edits.structure import negative


def mirrored_part(part: model.Part) -> model.Part | None:
    """The part with y told the other way; None if that gives the very same part."""
    places = tuple(
        place.model_copy(update={"y": negative(place.y), "angle": negative(place.angle)})
        for place in part.places
    )
    slabs = with_outlines(part.slabs, mirrored_outline)
    relations = tuple(
        r.model_copy(update={"value": negative(r.value)})
        if r.kind == "angle" and r.value is not None
        else r
        for r in part.relations
    )
    image = part.model_copy(update={"places": places, "slabs": slabs, "relations": relations})
    return None if image == part else image


def mirrored_outline(outline: model.Outline) -> model.Outline:
    """An outline with y told the other way."""
    if isinstance(outline, model.Hull):
        rounds = tuple(r.model_copy(update={"y": negative(r.y)}) for r in outline.rounds)
        return outline.model_copy(update={"rounds": rounds})
    if isinstance(outline, model.Path):
        vertices = tuple(
            v.model_copy(update={"y": negative(v.y), "bulge": negative(v.bulge)})
            for v in outline.vertices
        )
        return outline.model_copy(update={"vertices": vertices})
    image = outline.model_copy(update={"y": negative(outline.y)})
    if isinstance(image, model.Rectangle):
        return image.model_copy(update={"turned": negative(image.turned)})
    return image


def mirrored_joint(joint: model.Joint) -> model.Joint:
    """The joint between mirror images: turns count the other way, slides keep theirs."""
    update: dict[str, object] = {
        "twist": negative(joint.twist), "offset": negative(joint.offset),
    }  # fmt: skip
    if joint.kind not in ("prismatic", "pin_in_slot"):
        limits = joint.limits
        least, greatest, rest = limits.least, limits.greatest, limits.rest
        update["zero"] = negative(joint.zero)
        update["limits"] = model.Limits(
            least=None if greatest is None else negative(greatest),
            greatest=None if least is None else negative(least),
            rest=None if rest is None else negative(rest),
        )
    return joint.model_copy(update=update)
