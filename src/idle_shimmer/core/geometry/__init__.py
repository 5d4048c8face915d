"""Coordinate maps, what lies beyond the edges, the one warp, and the shutter."""
