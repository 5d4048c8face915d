"""The hard cut."""

from typing import Literal

from idle_shimmer.core.mixes.base import Mix


class Cut(Mix):
    """Outgoing until the cut, incoming from it."""

    title = "Hard cut"
    purpose = "Changes from one picture to the other between two frames."

    kind: Literal["cut"] = "cut"

    def progress(self, u: float) -> float:
        """Return 0 before the cut, 1 from it."""
        return 0.0 if u < 0 else 1.0
