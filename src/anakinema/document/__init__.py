"""What the designer made, as pure data (`model`), and what follows from it alone: its numbers
(`resolve`), what is particular to each kind, what goes with what.
"""

from anakinema.document.contact_kinds import contact_spec, kinds_of_contact
from anakinema.document.coupling_kinds import coupling_spec
from anakinema.document.depending import Going, dependents
from anakinema.document.dimensions import dimensions_of
from anakinema.document.kinds import KINDS, Rider, Way, spec_of
from anakinema.document.resolve import Resolved

__all__ = [
    "KINDS",
    "Going",
    "Resolved",
    "Rider",
    "Way",
    "contact_spec",
    "coupling_spec",
    "dependents",
    "dimensions_of",
    "kinds_of_contact",
    "spec_of",
]
