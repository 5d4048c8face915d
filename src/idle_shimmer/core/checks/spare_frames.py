"""Spare frames: the mix finds the frames that it needs on both clips."""

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Mend, replaced
from idle_shimmer.core.render import spare_frames_needed


class SpareFrames(Check):
    """The mix and the speed ramps find the frames beyond the cut that they show."""

    id = "spare_frames"
    title = "Spare frames"

    def run(self, context: CheckContext) -> Finding:
        """How many frames are missing on the worse side."""
        short = [each for each in context.shortages if each.missing > 0]
        if not short:
            needed = spare_frames_needed(context.recipe, context.timeline.window)
            return self.found(
                "ok",
                0,
                "frames",
                f"Needs {needed.outgoing} spare frames of outgoing and {needed.incoming} of incoming.",
            )
        worse = max(short, key=lambda each: each.missing)
        place = "after the cut" if worse.side == "outgoing" else "before it"
        sentence = (
            f"The mix shows {worse.needed} frames of {worse.side} {place}, but the clip has"
            f" {worse.available} there: {worse.missing} missing."
        )
        frame = worse.available if worse.side == "outgoing" else -worse.available - 1
        return self.found("broken", worse.missing, "frames", sentence, frame, _mends(context))


def _mends(context: CheckContext) -> list[Mend]:
    mends = []
    span = context.span_that_fits
    if span is not None:
        patch = (replaced("/mix/span", list(span)),)
        mends.append(Mend(f"shorten the span to {span[0]:g} … {span[1]:g}", patch))
    hold = (replaced("/hold_frames", True),)
    mends.append(Mend("hold the last frame that there is", hold))
    sides = {each.side: each.missing for each in context.shortages if each.missing > 0}
    if len(sides) == 1:
        side, missing = next(iter(sides.items()))
        move = -missing if side == "outgoing" else missing
        mends.append(Mend(f"move the cut by {move:+d} frames", move_cut=move))
    return mends
