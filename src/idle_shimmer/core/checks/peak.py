"""Peak: swells peak at the cut."""

from dataclasses import dataclass

from idle_shimmer.core.animation.envelope import Swell
from idle_shimmer.core.animation.times import u_of
from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Fix, plural, set_field
from idle_shimmer.core.filters.base import Filter

# A recipe with this tag peaks elsewhere on purpose.
OFF_CUT_TAG = "off-cut"


@dataclass(frozen=True)
class _OffCut:
    """A swell whose peak does not cover the cut."""

    owner: Filter
    path: str
    u: float
    frames: float


class Peak(Check):
    """Swells are at their peak at the cut, unless the recipe is tagged "off-cut"."""

    id = "peak"
    title = "Peak"
    order = 100

    def run(self, context: CheckContext) -> Finding:
        """Return how many frames the farthest peak is from the cut."""
        if OFF_CUT_TAG in context.recipe.tags:
            return self.ok(0, "frames", "This recipe peaks away from the cut on purpose.")
        worst = max(_off_cut(context), key=lambda each: each.frames, default=None)
        # On the last or first frame beside the cut it is as near as one frame can be.
        if worst is None or worst.frames < 0.5 + 1e-6:
            return self.ok(0, "frames", "Every swell peaks at the cut.")
        end, side = ("full_from", "after") if worst.u > 0 else ("full_to", "before")
        frames = round(worst.frames)
        return self.found(
            "warning",
            worst.frames,
            "frames",
            f"{worst.owner.label} peaks {plural(frames, 'frame')} {side} the cut, where it does not"
            " hide the change. Move its peak to the cut.",
            frames if worst.u > 0 else -frames,
            [Fix("Move the peak to the cut", (set_field(f"{worst.path}/{end}", 0.0),))],
        )


def _off_cut(context: CheckContext) -> list[_OffCut]:
    window, found = context.timeline.window, []
    for place, owner in context.enabled():
        for name in owner.parameters():
            envelope = getattr(owner, name)
            if not isinstance(envelope, Swell):
                continue
            full_from, full_to = u_of(envelope.full_from), u_of(envelope.full_to)
            if full_from <= 0 <= full_to:
                continue
            u = full_from if full_from > 0 else full_to
            frames = abs(u) * (window.after if u > 0 else window.before)
            found.append(_OffCut(owner, f"/filters/{place}/{name}", u, frames))
    return found
