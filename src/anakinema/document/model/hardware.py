"""What holds a pin joint together: a screw with nut, washers and spacers, or a retaining ring, kept
in step with the stack."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anakinema.document.model.fields import BodyName, Identifier, JointName, Model

MOST_BODIES = 24
HeadKind = Literal["cap", "hexagon", "button", "countersunk"]


class Hardware(Model):
    """Bodies that were made for a joint. Their parts and heights follow the layers on its axis.

    The first body is the screw, or the ring. ``washers`` are wanted, of which a countersunk head
    has none; ``below`` turns all of it over.
    """

    id: Identifier
    joint: JointName
    head: HeadKind = "cap"
    washers: Annotated[int, Field(ge=0, le=2, strict=True)] = 2
    below: bool = False
    bodies: Annotated[tuple[BodyName, ...], Field(min_length=1, max_length=MOST_BODIES)]
