"""Peak: swells peak at the cut."""

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Mend, replaced
from idle_shimmer.core.envelope import Swell

# A recipe that says so peaks elsewhere on purpose.
OFF_CUT_TAG = "off-cut"


class Peak(Check):
    """Swells are at their peak at the cut, unless the recipe is tagged "off-cut"."""

    id = "peak"
    title = "Peak"

    def run(self, context: CheckContext) -> Finding:
        """How many frames the farthest peak is from the cut."""
        if OFF_CUT_TAG in context.recipe.tags:
            return self.found("ok", 0, "frames", "This recipe peaks away from the cut on purpose.")
        window = context.timeline.window
        far: tuple[float, int, str, str, float] | None = None
        for place, each in context.working():
            for name in each.facts():
                envelope = getattr(each, name)
                if not isinstance(envelope, Swell) or envelope.full_from <= 0 <= envelope.full_to:
                    continue
                u = envelope.full_from if envelope.full_from > 0 else envelope.full_to
                frames = abs(u) * (window.after if u > 0 else window.before)
                if far is None or frames > far[0]:
                    far = (frames, place, each.id, name, u)
        if far is None or far[0] < 0.5:
            return self.found("ok", 0, "frames", "Every swell peaks at the cut.")
        frames, place, name_of_pass, name, u = far
        end = "full_from" if u > 0 else "full_to"
        mend = Mend("bring the peak to the cut", (replaced(f"/passes/{place}/{name}/{end}", 0.0),))
        side = "after" if u > 0 else "before"
        return self.found(
            "look",
            frames,
            "frames",
            f"{name_of_pass} peaks {frames:.0f} frames {side} the cut, where the change is not hidden.",
            round(frames) if u > 0 else -round(frames),
            [mend],
        )
