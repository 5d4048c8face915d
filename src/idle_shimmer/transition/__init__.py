"""Two sources, a recipe and a window: frames, sound, what is missing, and the checks on it."""
