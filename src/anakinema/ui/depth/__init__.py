"""The mechanism in depth: seen from anywhere and worked on there."""
