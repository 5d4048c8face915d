"""Which special paths are on: faster ways to what the general computation would give.

Each earns its place by a measured gain (docs/performance.md, written by ``./benchmark --paths``).
The environment variable ``IDLE_SHIMMER_OFF``, a list of names, switches paths off to measure them.
"""

import os

_OFF = frozenset(filter(None, os.environ.get("IDLE_SHIMMER_OFF", "").split(",")))


def is_on(name: str) -> bool:
    """Whether the special path ``name`` is used."""
    return name not in _OFF


def switched_off() -> str:
    """Return the names that are switched off, for the name of a cache; empty where none is."""
    return "-".join(sorted(_OFF))
