"""Time: frame rates and windows, easing curves, envelopes, speed ramps, and all values of a recipe."""
