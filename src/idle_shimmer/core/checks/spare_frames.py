"""Spare frames: the mix and the speed ramps find the frames that they need on both clips."""

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Fix, plural, set_field
from idle_shimmer.core.frame.needs import Shortage, spare_frames_needed


class SpareFrames(Check):
    """The mix and the speed ramps find the frames beyond the cut that they show."""

    id = "spare_frames"
    title = "Spare frames"
    order = 30

    def run(self, context: CheckContext) -> Finding:
        """Return how many frames are missing on the worse side."""
        short = [each for each in context.shortages if each.missing > 0]
        if context.held:
            held = max(each.missing for each in context.held)
            message = f"Holds {' and '.join(each.held for each in context.held)}."
            return self.ok(held, "frames", message)
        if not short:
            needed = spare_frames_needed(context.recipe, context.timeline.window)
            if not needed.outgoing and not needed.incoming:
                return self.ok(0, "frames", "Uses no spare frames.")
            message = (
                f"Uses {plural(needed.outgoing, 'spare frame')} of the outgoing clip and"
                f" {needed.incoming} of the incoming clip."
            )
            return self.ok(0, "frames", message)
        worse = max(short, key=lambda each: each.missing)
        if worse.is_far:
            frame = context.timeline.window.offsets[0 if worse.side == "outgoing" else -1]
            message = f"{worse.sentence} Lower the speed, or let the ramp change the edit's length."
            return self.found("failed", worse.missing, "frames", message, frame, _slip_fixes(worse))
        frame = worse.available if worse.side == "outgoing" else -worse.available - 1
        remedy = "Hold the end frames" if worse.is_shot else "Shorten the mix or move the cut"
        message = f"{worse.sentence} {remedy}."
        return self.found("failed", worse.missing, "frames", message, frame, _fixes(context))


def _slip_fixes(shortage: Shortage) -> list[Fix]:
    ripple = (set_field(f"/retime/{shortage.side}/in_edit", "ripple"),)
    held = "first" if shortage.side == "outgoing" else "last"
    return [
        Fix("Change the length of the edit", ripple),
        Fix(f"Hold the {held} frame", (set_field("/hold_frames", True),)),
    ]


def _fixes(context: CheckContext) -> list[Fix]:
    fixes = []
    span = context.span_that_fits
    if span is not None:
        patch = (set_field("/mix/span", list(span)),)
        fixes.append(Fix(f"Shorten the span to {span[0]:g} … {span[1]:g}", patch))
    short = [each for each in context.shortages if each.missing > 0]
    sides = {each.side for each in short}
    which = "last frame" if sides == {"outgoing"} else "first frame"
    held = which if len(sides) == 1 else "end frames"
    fixes.append(Fix(f"Hold the {held}", (set_field("/hold_frames", True),)))
    # Past the end of a shot a moved cut would show the next one.
    if len(short) == 1 and not short[0].is_shot:
        move = -short[0].missing if short[0].side == "outgoing" else short[0].missing
        fixes.append(Fix(f"Move the cut by {move:+d} frames", move_cut=move))
    return fixes
