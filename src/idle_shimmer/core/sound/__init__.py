"""Sound as arrays: float32 stereo, (samples, 2), -1…1, 48 000 samples per second."""
