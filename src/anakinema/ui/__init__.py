"""The window. Draws what the session knows and sends edits back; computes no kinematics."""
