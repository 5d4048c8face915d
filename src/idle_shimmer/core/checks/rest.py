"""Rest: every filter does nothing at the ends of the window at which it is seen."""

from idle_shimmer.core.animation.envelope import Keyframes
from idle_shimmer.core.animation.times import u_of
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    layer_frames,
    set_field,
    window_ends,
)
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.geometry.movement import NO_MOVEMENT


class Rest(Check):
    """Across filters rest at both ends, outgoing ones at the start, incoming ones at the end."""

    id = "rest"
    title = "Rest"
    order = 20

    def run(self, context: CheckContext) -> Finding:
        """Return the number of filters that still work at an end."""
        restless = [
            (place, owner, name, u)
            for place, owner in context.enabled()
            for u in window_ends(owner, context.recipe)
            for name in _away_from_rest(owner, u)
        ]
        if not restless:
            return self.ok(0, "filters", "Every filter is at rest at the ends of the window.")
        place, owner, name, u = restless[0]
        window = context.timeline.window
        end, frame = ("start", -window.before) if u < 0 else ("end", window.after - 1)
        where = f"the {end} of the window"
        if owner.side == "subject":
            shown = layer_frames(context)
            layer = context.recipe.subject_layer
            is_start = layer is not None and u < u_of(layer.end)
            frame = shown[0] if is_start else shown[-1]
            where = f"the {'start' if is_start else 'end'} of the subject layer"
        count = len({each.id for _, each, _, _ in restless})
        label = owner.parameters()[name].label.lower()
        if all(_is_hard_start(each, of, at, window) for _, each, of, at in restless):
            message = (
                f"{owner.label} starts with a keyframe for its {label} that is not at rest, so the picture"
                " jumps there. Accept that if it is meant."
            )
            return self.found("warning", count, "filters", message, frame)
        message = (
            f"{owner.label} still changes the picture at {where}, so the picture"
            f" jumps there. Let its {label} return to rest."
        )
        return self.found("failed", count, "filters", message, frame, _fixes(place, owner, name))


def _is_hard_start(owner: Filter, name: str, u: float, window: Window) -> bool:
    """Whether a keyframe was put on the first frame of the window, away from rest: a hit begins so."""
    envelope = getattr(owner, name)
    if u > 0 or owner.side == "subject" or not isinstance(envelope, Keyframes):
        return False
    return u_of(envelope.keyframes[0].at) * window.before <= 1 - window.before


def _away_from_rest(owner: Filter, u: float) -> list[str]:
    """Return the parameters that are not at rest; periodic ones are the landing check's."""
    values = owner.values_at(u, lambda _: NO_MOVEMENT)
    if values["opacity"] == 0:
        return []
    return [
        name
        for name, parameter in owner.parameters().items()
        if parameter.rest is not None
        and parameter.period is None
        and values[name] != parameter.rest
    ]


def _fixes(place: int, owner: Filter, name: str) -> list[Fix]:
    envelope = getattr(owner, name)
    if not isinstance(envelope, int | float):
        return []
    swell = {"kind": "swell", "peak": envelope}
    label = f"Let {owner.parameters()[name].label.lower()} rise from rest and return"
    return [Fix(label, (set_field(f"/filters/{place}/{name}", swell),))]
