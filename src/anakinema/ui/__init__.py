"""The window. Draws what the session knows and sends edits back; computes no kinematics."""

# Before Qt: its binding reads the source of every module that is imported after it.
import anakinema.session  # noqa: F401
