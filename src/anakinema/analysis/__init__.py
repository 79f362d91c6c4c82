"""Questions about a motion that need bounds: certified clearance, reachable ranges, depths of
overlaps, ends of slots. Each answer says how far it can be trusted.
"""

from anakinema.analysis.gap import Gap
from anakinema.analysis.places import ends_of_travel
from anakinema.analysis.reach import Reach

__all__ = ["Gap", "Reach", "ends_of_travel"]
