"""Enlargement: a picture that is blown up is not shown sharp."""

import math

from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Mend,
    covers,
    frames_of,
    mended,
    replaced,
)
from idle_shimmer.core.passes.base import MovingPass, Pass
from idle_shimmer.core.timeline import Timeline

_SHARP_SCALE = 1.5
# How many frame pixels of smear hide one source pixel's enlargement beyond its own size.
_SMEAR_PER_ENLARGEMENT = 1.5
# The mean distance of a 16:9 frame's points from its centre, in frame heights.
_MEAN_DISTANCE = 0.5
_MEND_PEAKS = (0.05, 0.1, 0.2, 0.4, 0.8, 1.6)


class Enlargement(Check):
    """No sharp enlargement beyond 150 % of source pixels with too little blur on top."""

    id = "enlargement"
    title = "Enlargement"

    def run(self, context: CheckContext) -> Finding:
        """The largest scale that is shown sharp, in percent of source pixels."""
        percent, frame = _sharpest(context)
        if frame is None:
            return self.found("ok", percent, "%", "No enlargement is shown sharp.")
        return self.found(
            "look",
            percent,
            "%",
            f"The picture is enlarged to {percent:.0f} % and shown sharp: a zoom blur on top hides"
            " that it is soft.",
            frame,
            _mends(context),
        )


def _sharpest(context: CheckContext) -> tuple[float, int | None]:
    """(the largest scale in percent, the frame in which it shows without enough blur, or None)."""
    moving = [each for _, each in context.working() if isinstance(each, MovingPass)]
    largest, bare = 100 * context.source_scale, None
    for side in ("outgoing", "incoming"):
        seen = [each for each in moving if each.side in (side, "across")]
        if not seen:
            continue
        frames = [k for k in context.timeline.window.offsets if (k < 0) == (side == "outgoing")]
        for k in frames:
            scale = context.source_scale * math.prod(
                _scale(context.timeline, each, k) for each in seen
            )
            needed = _SMEAR_PER_ENLARGEMENT * (scale - 1)
            if scale > _SHARP_SCALE and _smear_px(context, seen, k) < needed:
                if bare is None or 100 * scale > largest:
                    largest, bare = 100 * scale, k
            elif bare is None:
                largest = max(largest, 100 * scale)
    return largest, bare


def _scale(timeline: Timeline, each: MovingPass, k: int) -> float:
    stage = each.stage(timeline.values(each, k + 0.5), timeline.context(k + 0.5, k))
    a, b, c, d = stage.matrix[0, 0], stage.matrix[0, 1], stage.matrix[1, 0], stage.matrix[1, 1]
    return 1 / math.sqrt(abs(a * d - b * c))


def _smear_px(context: CheckContext, seen: list[MovingPass], k: int) -> float:
    """The full length of what blurs the picture in frame ``k``, shutter included, in pixels."""
    timeline = context.timeline
    height = timeline.size[1]
    lengths = [
        _blur(each, timeline, k) * height
        for _, each in context.working()
        if each.family == "blur" and k in frames_of(context, each) and covers(each, seen[0])
    ]
    for each in seen:
        movement = timeline.movement(each.id, k + 0.5)
        open_share = timeline.recipe.shutter / 360
        grown = movement.distance + _MEAN_DISTANCE * (
            abs(movement.zoom) + math.radians(abs(movement.turn_deg))
        )
        lengths.append(open_share * grown * height)
    return math.hypot(*lengths) if lengths else 0.0


def _blur(each: Pass, timeline: Timeline, k: int) -> float:
    """The full length of a blur, in frame heights."""
    values = timeline.values(each, k + 0.5)
    match each.kind:
        case "directional_blur":
            length = values["length"]
        case "radial_blur" if values["style"] == "spin":
            length = math.radians(values["amount"]) * _MEAN_DISTANCE
        case "radial_blur":
            length = values["amount"] * _MEAN_DISTANCE
        case _:
            # As wide as a box of the same variance.
            length = values["radius"] * math.sqrt(12)
    return float(length * values["opacity"])


def _mends(context: CheckContext) -> list[Mend]:
    """A zoom blur on top, just strong enough."""
    taken = {each.id for each in context.recipe.passes}
    name = next(each for n in range(1, 999) if (each := f"zoom-{n}") not in taken)
    for peak in _MEND_PEAKS:
        swell = {"kind": "swell", "peak": peak, "rise": "ease-out", "fall": "ease-in"}
        blur = {"id": name, "kind": "radial_blur", "style": "zoom", "amount": swell}
        mend = Mend("put a zoom blur on top", (replaced("/passes/-", blur),))
        timeline = context.timeline
        after = Timeline(
            mended(context.recipe, mend), timeline.window, timeline.rate, timeline.size
        )
        if _sharpest(CheckContext(after, source_scale=context.source_scale))[1] is None:
            return [mend]
    return []
