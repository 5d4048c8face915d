"""Enlargement: an enlarged picture is not shown sharp."""

import math
from dataclasses import replace

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    apply_fix,
    set_field,
)
from idle_shimmer.core.filters.base import Filter, GeometryFilter, MovingFilter, registered

_SHARP_SCALE = 1.5
# How many frame pixels of blur hide one source pixel's enlargement beyond its own size.
_BLUR_PER_ENLARGEMENT = 1.5
# The mean distance of a 16:9 frame's points from its centre, in frame heights.
_MEAN_DISTANCE = 0.5
# At half of a mix both clips are seen alike; from there on it is the incoming one.
_HALF = 0.5 + 1e-9
_COVER_AMOUNTS = (0.05, 0.1, 0.2, 0.4, 0.8, 1.6)


class Enlargement(Check):
    """No sharp enlargement beyond 150 % of source pixels with too little blur on top."""

    id = "enlargement"
    title = "Enlargement"
    order = 90

    def run(self, context: CheckContext) -> Finding:
        """Return the largest scale that is shown sharp, in percent of source pixels."""
        percent, frame = _sharpest(context)
        if frame is None:
            return self.ok(percent, "%", "No enlargement is shown sharp.")
        return self.found(
            "warning",
            percent,
            "%",
            f"The picture is enlarged to {percent:.0f} % and shown sharp. Add a zoom blur on top.",
            frame,
            _fixes(context),
        )


def _sharpest(context: CheckContext) -> tuple[float, int | None]:
    """Return (the largest scale in percent, the frame where it has too little blur, or None)."""
    geometry = [each for _, each in context.enabled() if isinstance(each, GeometryFilter)]
    largest, bare = 100 * context.source_scale, None
    for side in CLIP_SIDES:
        seen = [each for each in geometry if each.side in (side, "across")]
        if not seen:
            continue
        for k in _frames_of_side(context.timeline, side):
            scale = context.source_scale * math.prod(
                _enlargement(context.timeline, each, k) for each in seen
            )
            needed = _BLUR_PER_ENLARGEMENT * (scale - 1)
            if scale > _SHARP_SCALE and _blur_px(context, side, k) < needed:
                if bare is None or 100 * scale > largest:
                    largest, bare = 100 * scale, k
            elif bare is None:
                largest = max(largest, 100 * scale)
    return largest, bare


def _enlargement(timeline: Timeline, owner: GeometryFilter, k: int) -> float:
    return owner.enlargement(timeline.values(owner, k + 0.5), timeline.context(k + 0.5, k))


def _frames_of_side(timeline: Timeline, side: ClipSide) -> list[int]:
    """Return the frames in which a clip is what one sees: where the mix shows more of it than of the other."""
    window, mix = timeline.window, timeline.recipe.mix
    is_outgoing = side == "outgoing"
    return [
        k for k in window.offsets if (mix.progress(window.u_of_frame(k)) < _HALF) == is_outgoing
    ]


def _blur_px(context: CheckContext, side: ClipSide, k: int) -> float:
    """Return the full length of what blurs a clip's picture in frame ``k``, shutter included."""
    timeline = context.timeline
    height = timeline.size[1]
    seen = [owner for _, owner in context.enabled() if owner.side in (side, "across")]
    lengths = [_softening(owner, timeline, k) * height for owner in seen]
    shutter = timeline.recipe.shutter / 360
    for owner in seen:
        if shutter and isinstance(owner, MovingFilter):
            movement = timeline.movement(owner.id, k + 0.5)
            distance = movement.distance + _MEAN_DISTANCE * (
                abs(movement.zoom) + math.radians(abs(movement.turn_deg))
            )
            lengths.append(shutter * distance * height)
    return math.hypot(*lengths) if lengths else 0.0


def _softening(owner: Filter, timeline: Timeline, k: int) -> float:
    values = timeline.values(owner, k + 0.5)
    return owner.softening(values) * float(values["opacity"])


def _fixes(context: CheckContext) -> list[Fix]:
    """Return the weakest zoom blur on top that is enough, by a filter that offers one."""
    covering = [kind for kind, cls in sorted(registered().items()) if cls.zoom_cover(0.1)]
    for kind in covering:
        for amount in _COVER_AMOUNTS:
            cover = {"id": _free_id(context), "kind": kind}
            cover |= registered()[kind].zoom_cover(amount) or {}
            fix = Fix("Add a zoom blur on top", (set_field("/filters/-", cover),))
            fixed = replace(context.timeline, given=apply_fix(context.recipe, fix))
            if _sharpest(CheckContext(fixed, source_scale=context.source_scale))[1] is None:
                return [fix]
    return []


def _free_id(context: CheckContext) -> str:
    taken = {each.id for each in context.recipe.filters}
    return next(name for n in range(1, 999) if (name := f"zoom-{n}") not in taken)
