"""Coordinate maps, edges, the one lookup, and the shutter."""
