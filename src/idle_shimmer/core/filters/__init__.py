"""The computations that passes share: pure functions from pixels to new pixels."""
