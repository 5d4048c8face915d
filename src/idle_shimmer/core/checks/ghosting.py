"""Ghosting: a morph finds in both pictures what it moves from one into the other.

Where the optical flows between the two pictures disagree, nothing is moved: both are seen at once, as
ghosts of one another. The measure is the forward-backward check (common practice).
"""

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Status
from idle_shimmer.core.kernels.optical_flow import disagreement

_WARNING_SHARE, _FAILED_SHARE = 0.15, 0.4


class Ghosting(Check):
    """Morphs, those of the mix and those that join slips, move most of what they show."""

    id = "ghosting"
    title = "Ghosting"
    order = 115
    on_frames = True

    def run(self, context: CheckContext) -> Finding:
        """Return the largest share of a frame that a morph shows twice, in percent."""
        pairs = () if context.morphs is None else context.morphs()
        shares = [(disagreement(one, other), offset) for offset, one, other in pairs]
        if not shares:
            return self.ok(0, "%", "Nothing is morphed.")
        share, frame = max(shares)
        if share < _WARNING_SHARE:
            return self.ok(100 * share, "%", "What is morphed is found in both pictures.", frame)
        status: Status = "failed" if share >= _FAILED_SHARE else "warning"
        return self.found(
            status,
            100 * share,
            "%",
            f"{100 * share:.0f} % of frame {frame} is in one of the two pictures only, and shows as a ghost."
            " Morph over a smaller jump, or use a dissolve.",
            frame,
        )
