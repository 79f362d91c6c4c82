"""What the designer made, as pure data (`model`), and what follows from it alone: its numbers
(`resolve`), what is particular to each kind, what goes with what.
"""

from anakinema.document.contact_kinds import contact_spec, kinds_of_contact
from anakinema.document.coupling_kinds import coupling_spec
from anakinema.document.depending import Going, dependents
from anakinema.document.dimensions import dimensions_of
from anakinema.document.follower_kinds import FACES, RETURNS, WAYS, face_of, numbers_used, way_of
from anakinema.document.kinds import KINDS, Rider, Way, spec_of
from anakinema.document.resolve import Resolved
from anakinema.document.rods_in_space import rod_ends, rod_places

__all__ = [
    "FACES",
    "KINDS",
    "RETURNS",
    "WAYS",
    "Going",
    "Resolved",
    "Rider",
    "Way",
    "contact_spec",
    "coupling_spec",
    "dependents",
    "dimensions_of",
    "face_of",
    "kinds_of_contact",
    "numbers_used",
    "rod_ends",
    "rod_places",
    "spec_of",
    "way_of",
]
