"""Fit: what the two clips do around a cut, and which recipes go on with it."""
