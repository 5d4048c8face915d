"""How much of the frame a subject layer fills where it comes, or where it is gone again."""

from dataclasses import dataclass

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.times import u_of
from idle_shimmer.core.checks.base import CheckContext, Fix, layer_frames, set_field
from idle_shimmer.core.frame.render import subject_coverage

_PROBE_HEIGHT = 96
_BEYOND = 1.2


@dataclass(frozen=True)
class Appearance:
    """A subject that is seen at once at ``frame``, in a ``share`` (0…1) of the frame at most."""

    share: float
    frame: int
    sentence: str
    fix: Fix


def appearance(context: CheckContext) -> Appearance | None:
    """Return how the subject layer comes (incoming) or goes (outgoing); None without a layer.

    Where its own clip is shown whole it does neither: it joins its picture there.
    """
    layer, frames, timeline = context.recipe.subject_layer, layer_frames(context), context.timeline
    if layer is None or not frames:
        return None
    comes = layer.of == "incoming"
    frame = frames[0] if comes else frames[-1]
    progress = context.recipe.mix.progress(timeline.window.u_of_frame(frame))
    if progress == (1 if comes else 0):
        return None
    width, height = timeline.size
    size = (max(2, round(width * _PROBE_HEIGHT / height)), _PROBE_HEIGHT)
    small = Timeline(timeline.given, timeline.window, timeline.rate, size)
    share = float(subject_coverage(small, frame).mean())
    verb, label = ("appears", "Let it fly in") if comes else ("vanishes", "Let it fly out")
    sentence = f"The subject of the {layer.of} clip {verb} at once at frame {frame}. {label}."
    return Appearance(share, frame, sentence, Fix(label, (_flight(context, comes=comes),)))


def _flight(context: CheckContext, *, comes: bool) -> dict[str, object]:
    layer = context.recipe.subject_layer
    assert layer is not None
    taken = {each.id for each in context.recipe.filters}
    name = next(
        each for each in ("flight", *(f"flight-{n}" for n in range(2, 102))) if each not in taken
    )
    start, end = u_of(layer.start), u_of(layer.end)
    middle = (start + end) / 2
    travel = {
        "kind": "travel",
        "from": _BEYOND if comes else 0.0,
        "amount": -_BEYOND if comes else _BEYOND,
        "start": start if comes else middle,
        "end": middle if comes else end,
        "easing": "ease-out" if comes else "ease-in",
    }
    return set_field(
        "/filters/-", {"id": name, "kind": "transform", "side": "subject", "shift_y": travel}
    )
