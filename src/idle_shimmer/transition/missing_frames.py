"""What a transition lacks: frames of its clips, spare frames, a marked subject; and what to do about it."""

from collections.abc import Iterator

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.errors import InvalidValue, SpareFramesMissing
from idle_shimmer.core.frame.needs import Shortage, missing_subjects, spare_frames_needed
from idle_shimmer.transition.transition import Frames, Transition


def require_frames(transition: Transition, margin: int = 0) -> None:
    """Raise where the clips lack frames for the window, ``margin`` around it, or the mix.

    InvalidValue, or SpareFramesMissing for the mix and speed ramps.
    """
    require_window(transition, margin)
    if short := shortages(transition):
        field = "retime" if short[0].is_far else "mix.span"
        remedy = _remedy(transition, short[0])
        raise SpareFramesMissing(f"{short[0].sentence} {remedy}", field=field)
    if missing := unmarked_subjects(transition):
        raise InvalidValue(without_subject_sentence(transition, missing[0]), field=missing[0])


def shortages(transition: Transition) -> list[Shortage]:
    """Return where the mix or a speed ramp needs more spare frames than the clip has.

    Empty where the recipe repeats the nearest frame instead.
    """
    return [] if transition.recipe.hold_frames else _lacking(transition)


def held_frames(transition: Transition) -> list[Shortage]:
    """Return where the recipe repeats the nearest frame, as it asks for, because the clip has no more."""
    return _lacking(transition) if transition.recipe.hold_frames else []


def _lacking(transition: Transition) -> list[Shortage]:
    wanted = spare_frames_needed(transition.recipe, transition.window)
    outgoing, incoming = transition.outgoing, transition.incoming
    shown, coming = transition.available("outgoing"), transition.available("incoming")
    past = wanted.outgoing if shown is None else shown.stop - transition.outgoing_out
    ahead = wanted.incoming if coming is None else transition.incoming_in - coming.start
    found = [
        Shortage(
            "outgoing", outgoing.name, wanted.outgoing, past, is_shot=_is_shot(shown, outgoing)
        ),
        Shortage(
            "incoming", incoming.name, wanted.incoming, ahead, is_shot=_is_shot(coming, incoming)
        ),
        *_slip_shortages(transition),
    ]
    return [each for each in found if each.missing > 0]


def _is_shot(available: range | None, clip: Frames) -> bool:
    """Whether the frames end with a shot, not with the file."""
    return available is not None and available != range(clip.count or 0)


def _slip_shortages(transition: Transition) -> Iterator[Shortage]:
    for side in CLIP_SIDES:
        ramp = transition.recipe.retime.ramp(side, transition.window)
        room = getattr(transition.slip_room, side)
        if ramp.retime.in_edit == "slip" and room is not None:
            name = getattr(transition, side).name
            yield Shortage(side, name, ramp.extra_frames, room, is_far=True)


def unmarked_subjects(transition: Transition) -> list[ClipSide]:
    """Return the sides whose subject the recipe needs and nobody has marked."""
    return missing_subjects(transition.recipe, transition.subjects.marked)


def without_subject_sentence(transition: Transition, side: ClipSide) -> str:
    """Return what is missing where the subject of a side is not marked, and what to do."""
    name = getattr(transition, side).name
    return (
        f"The recipe needs the subject of the {side} clip {name}, and none is marked there:"
        " mark it with strokes, or choose another recipe."
    )


def require_window(transition: Transition, margin: int = 0) -> None:
    """Raise InvalidValue where the clips are shorter than the window and ``margin`` around it."""
    shown, coming = transition.available("outgoing"), transition.available("incoming")
    before, after = transition.window.before + margin, transition.window.after + margin
    first = transition.source_frames("outgoing", -before).first - transition.outgoing_out
    last = transition.source_frames("incoming", after - 1).second - transition.incoming_in
    ahead = None if shown is None else transition.outgoing_out - shown.start
    behind = None if coming is None else coming.stop - transition.incoming_in
    _require_length(transition, "outgoing", margin, -first, ahead)
    _require_length(transition, "incoming", margin, last + 1, behind)


def _require_length(
    transition: Transition, clip: ClipSide, margin: int, wanted: int, has: int | None
) -> None:
    if has is None or wanted <= has:
        return
    side = "before" if clip == "outgoing" else "after"
    around = f" and {margin} of margin" if margin else ""
    if getattr(transition.recipe.retime, clip).is_normal:
        asked, remedy = f"{wanted - margin} frames{around}", "make the window shorter"
    else:
        asked = f"{wanted} frames at the speed of the {clip} clip, margin included,"
        remedy = "make the window shorter or the speed lower"
    raise InvalidValue(
        f"the window needs {asked} {side} the cut, but the {clip} clip"
        f" {getattr(transition, clip).name} has {has}: {remedy}",
        field=side,
    )


def _remedy(transition: Transition, shortage: Shortage) -> str:
    if shortage.is_far:
        return "Lower the speed, or let the ramp change the edit's length."
    span = span_that_fits(transition)
    if span is None:
        return "Move the in or out point, or use a hard cut."
    return f"Shorten the span to [{span[0]:g}, {span[1]:g}], or move the in or out point."


def span_that_fits(transition: Transition) -> tuple[float, float] | None:
    """Return the mix's span, shortened to the spare frames; None where nothing is left."""
    span = getattr(transition.recipe.mix, "span", None)
    if span is None:
        return None
    start, end = span
    window, retime = transition.window, transition.recipe.retime
    for each in shortages(transition):
        if each.is_far:
            continue
        if each.side == "outgoing":
            ramp = retime.ramp("outgoing", window)
            frames = [ramp.source_frames(k).second for k in range(window.after)]
            end = min(end, sum(k < each.available for k in frames) / window.after)
        else:
            ramp = retime.ramp("incoming", window)
            frames = [ramp.source_frames(-k - 1).first for k in range(window.before)]
            start = max(start, -sum(-k <= each.available for k in frames) / window.before)
    # Rounded towards the cut, so that the rounded span still fits.
    start, end = -int(-start * 1e4) / 1e4, int(end * 1e4) / 1e4
    return (start, end) if start < end else None
