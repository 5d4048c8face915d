"""Keyframes out of any envelope: a value on one frame, an easing divided, a side copied."""
