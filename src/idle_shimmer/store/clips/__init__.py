"""Clips, what was detected in them, and the mattes of their subjects."""
