"""Edges: the share of the window's pixels that show no picture."""

import numpy as np

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Fix, set_field
from idle_shimmer.core.filters.base import GeometryFilter
from idle_shimmer.core.frame.render import frame_coverage

_WARNING_PERCENT, _FAILED_PERCENT = 0.05, 1.0
_PROBE_HEIGHT = 144


class Edges(Check):
    """No pixel of the window lies beyond the picture: by coverage, not by black pixels."""

    id = "edges"
    title = "Edges"
    order = 40

    def run(self, context: CheckContext) -> Finding:
        """Return the uncovered share of all frames in the window, in percent."""
        uncovering = [
            place
            for place, owner in context.enabled()
            if isinstance(owner, GeometryFilter) and owner.can_uncover and owner.side != "subject"
        ]
        if not uncovering:
            return self.ok(0, "%", "The picture fills the frame throughout.")
        shares = _uncovered(context.timeline)
        percent = 100 * float(np.mean(shares))
        if percent <= _WARNING_PERCENT:
            return self.ok(percent, "%", "The picture fills the frame throughout.")
        barest = int(np.argmax(shares))
        patch = tuple(set_field(f"/filters/{place}/edge", "mirror") for place in uncovering)
        return self.found(
            "failed" if percent >= _FAILED_PERCENT else "warning",
            percent,
            "%",
            f"{percent:.1f} % of the window shows no picture; on the worst frame it is"
            f" {100 * shares[barest]:.0f} %. Fill it with the mirrored picture.",
            barest - context.timeline.window.before,
            [Fix("Fill with the mirrored picture", patch)],
        )


def _uncovered(timeline: Timeline) -> list[float]:
    """Return the share of pixels without picture for each frame, on a small frame."""
    width, height = timeline.size
    small = (max(2, round(width * _PROBE_HEIGHT / height)), _PROBE_HEIGHT)
    probe = Timeline(timeline.given, timeline.window, timeline.rate, small)
    return [1 - float(frame_coverage(probe, offset).mean()) for offset in timeline.window.offsets]
