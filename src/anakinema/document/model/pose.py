"""Poses of the whole mechanism that are kept under a name."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from anakinema.bounded import MOST_ITEMS
from anakinema.document.model.fields import BodyName, Identifier, Model, Titled, Words
from anakinema.document.model.joint import Pose


class KeptPlacement(Model):
    """Where a body stands in a kept pose."""

    body: BodyName
    pose: Pose


class KeptPose(Titled, Model):
    """Where all that moves stood. After an edit what drives it stands as it did, and the rest
    follows; a body that is gone counts no more. ``ghost``: shown over whatever else is."""

    id: Identifier
    name: Words = ""
    placements: Annotated[tuple[KeptPlacement, ...], Field(max_length=MOST_ITEMS)] = ()
    ghost: bool = False
