"""How a mechanism moves along its program: assembled, followed on its branch, sampled, with what
happens on the way; also a body pulled by hand and a first look.
"""

from anakinema.motion.windows import contact_windows

__all__ = ["contact_windows"]
