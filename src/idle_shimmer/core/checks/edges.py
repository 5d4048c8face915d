"""Edges: the share of the window's pixels that show no picture."""

import numpy as np

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Mend, replaced
from idle_shimmer.core.render import frame_coverage
from idle_shimmer.core.timeline import Timeline

_LOOK_PERCENT, _BROKEN_PERCENT = 0.05, 1.0
_PROBED_HEIGHT = 144


class Edges(Check):
    """No pixel of the window lies beyond the picture: told from coverage, not from black pixels."""

    id = "edges"
    title = "Edges"

    def run(self, context: CheckContext) -> Finding:
        """The uncovered share of all frames in the window, in percent."""
        black = [
            place for place, each in context.working() if getattr(each, "edge", None) == "black"
        ]
        if not black:
            return self.found("ok", 0, "%", "The picture fills the frame throughout.")
        shares = _uncovered(context.timeline)
        percent = 100 * float(np.mean(shares))
        if percent <= _LOOK_PERCENT:
            return self.found("ok", percent, "%", "The picture fills the frame throughout.")
        barest = int(np.argmax(shares))
        patch = tuple(replaced(f"/passes/{place}/edge", "mirror") for place in black)
        return self.found(
            "broken" if percent >= _BROKEN_PERCENT else "look",
            percent,
            "%",
            f"{percent:.0f} % of the window shows no picture, {100 * shares[barest]:.0f} % at its"
            " barest frame: mirrored edges would fill it.",
            barest - context.timeline.window.before,
            [Mend("mirror the edges", patch)],
        )


def _uncovered(timeline: Timeline) -> list[float]:
    """For each frame the share of pixels without picture, on a small frame of the same shape."""
    width, height = timeline.size
    small = (max(2, round(width * _PROBED_HEIGHT / height)), _PROBED_HEIGHT)
    probe = Timeline(timeline.recipe, timeline.window, timeline.rate, small)
    return [1 - float(frame_coverage(probe, offset).mean()) for offset in timeline.window.offsets]
