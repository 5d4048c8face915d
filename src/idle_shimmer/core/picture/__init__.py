"""Pixel encodings, the transfer function, resampling weights and seeded noise."""
