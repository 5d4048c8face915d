"""The computing behind filters and mixes: one algorithm a file, pure functions from pixels to pixels."""
