"""Commands on one transition: render it, check it."""

import json
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from idle_shimmer.cli.choices import one_of
from idle_shimmer.cli.options import taking
from idle_shimmer.cli.problems import plain_errors
from idle_shimmer.cli.recipe_files import read_recipe
from idle_shimmer.cli.transition_options import CheckOptions, RenderOptions, TransitionOptions
from idle_shimmer.core.errors import InvalidValue

if TYPE_CHECKING:
    from fractions import Fraction

    from idle_shimmer.core.animation.retime import ClipSide
    from idle_shimmer.core.animation.timing import Window
    from idle_shimmer.core.checks.base import Finding
    from idle_shimmer.core.picture.output import Depth
    from idle_shimmer.core.picture.yuv import Planes
    from idle_shimmer.core.recipe import Recipe
    from idle_shimmer.media.read.rate_conversion import RateConvertedClip
    from idle_shimmer.media.sound.sound_parts import Sound
    from idle_shimmer.output.kept_planes import Coded
    from idle_shimmer.output.sound.window_sound import HeardSides
    from idle_shimmer.transition.transition import Subjects, Transition

_MAX_SIDE_PX = 16384


@taking(RenderOptions)
def render(options: RenderOptions) -> None:
    """Render a transition: its window, and a margin of untouched frames around it."""
    with plain_errors(), _transition(options) as transition:
        from idle_shimmer.media.colour_tags import common_colour
        from idle_shimmer.media.read.reader import is_read_deep
        from idle_shimmer.media.write.output_formats import QUALITIES
        from idle_shimmer.output.transition_files import TransitionOutput, write_transition
        from idle_shimmer.transition.missing_frames import (
            require_frames,
            unmarked_subjects,
            without_subject_sentence,
        )

        margin = options.margin
        if margin < 0:
            raise InvalidValue(f"{margin} is less than 0: give 0 or more frames", field="--margin")
        quality = one_of(options.quality, QUALITIES, "--quality")
        has_sound = one_of(options.sound, ("on", "off"), "--sound") == "on"
        for side in unmarked_subjects(transition):
            raise InvalidValue(
                without_subject_sentence(transition, side), field=f"--{side}-strokes"
            )
        require_frames(transition, margin)
        sides = _converted(transition.outgoing), _converted(transition.incoming)
        wanted = TransitionOutput(
            sides[0].reader.size,
            margin,
            _sound(transition, options, margin) if has_sound else None,
            options.output,
            quality,
            _depth(options.depth),
            any(is_read_deep(side.reader.facts, deep=True) for side in sides),
            common_colour([side.reader.facts.colour for side in sides]),
            _planes_of(sides),
        )
        write_transition(transition, options.out, wanted)


@taking(CheckOptions)
def check(options: CheckOptions) -> None:
    """Check whether a transition lands cleanly; exit 1 where a check failed."""
    from idle_shimmer.core.checks.base import SEVERITY, worst

    with plain_errors(), _transition(options) as transition:
        findings = _findings(options, transition)
    if options.as_json:
        print(json.dumps({"checks": [each.as_json() for each in findings]}, indent=1))
    else:
        for finding in sorted(findings, key=lambda one: -SEVERITY[one.status]):
            print(f"{finding.status:8} {finding.id:13} {finding.message}")
            if finding.fix is not None:
                print(f"{'':22} fix: {finding.fix.label}")
    raise SystemExit(1 if worst(findings).status == "failed" else 0)


def _findings(options: TransitionOptions, transition: "Transition") -> "list[Finding]":
    from idle_shimmer.core.framing import source_scale
    from idle_shimmer.output.sound.window_sound import heard_around
    from idle_shimmer.transition.checking import check_transition, frame_or_none, small_size
    from idle_shimmer.transition.missing_frames import require_window

    require_window(transition)
    clip = _converted(transition.outgoing)
    frame_size = clip.reader.size
    facts = [_converted(side).reader.facts for side in (transition.outgoing, transition.incoming)]
    scale = source_scale(frame_size, *((each.width, each.height) for each in facts))
    with _transition(options, small_size(frame_size)) as small:
        return check_transition(
            transition,
            frame_size,
            partial(frame_or_none, small),
            source_scale=scale,
            sound=partial(heard_around, transition, _heard_sides(options)),
            morphs=small.morphs,
        )


COMMANDS = (render, check)


def _converted(clip: object) -> "RateConvertedClip":
    from idle_shimmer.media.read.rate_conversion import RateConvertedClip
    from idle_shimmer.media.read.reframed import ReframedClip

    assert isinstance(clip, ReframedClip)
    assert isinstance(clip.clip, RateConvertedClip)
    return clip.clip


def _planes_of(
    sides: "tuple[RateConvertedClip, RateConvertedClip]",
) -> "Callable[[ClipSide, int, Coded], Planes | None]":
    """Return what gives the planes of both clips' own frames."""
    from idle_shimmer.output.kept_planes import own_planes

    def planes(side: "ClipSide", number: int, coded: "Coded") -> "Planes | None":
        clip = sides[0] if side == "outgoing" else sides[1]
        return own_planes(clip, number, coded, clip.reader.size)

    return planes


def _heard_sides(options: TransitionOptions) -> "HeardSides":
    from idle_shimmer.media.sound.played_sound import HeardClip
    from idle_shimmer.output.sound.window_sound import HeardSides

    return HeardSides(HeardClip(options.outgoing), HeardClip(options.incoming))


def _sound(
    transition: "Transition", options: TransitionOptions, margin: int
) -> "Iterator[Sound] | None":
    from idle_shimmer.output.sound.window_sound import window_sound

    sides = _converted(transition.outgoing), _converted(transition.incoming)
    is_heard = any(side.reader.facts.has_sound for side in sides)
    if not is_heard and transition.recipe.accent is None:
        return None
    window = transition.window
    offsets = range(-window.before - margin, window.after + margin)
    return window_sound(transition, offsets, _heard_sides(options))


@contextmanager
def _transition(
    options: TransitionOptions, small: tuple[int, int] | None = None
) -> "Iterator[Transition]":
    """Open what the options ask for; at the size ``small`` where that is given."""
    from idle_shimmer.core.animation.timing import parse_rate
    from idle_shimmer.core.compute.allocator import keep_freed_memory
    from idle_shimmer.core.compute.collector import resume_collection
    from idle_shimmer.media.read.rate_conversion import RateConvertedClip
    from idle_shimmer.media.read.reader import VideoReader
    from idle_shimmer.media.read.reframed import ReframedClip
    from idle_shimmer.media.read.wipe_pictures import matte_reader
    from idle_shimmer.media.sound.accent_files import sound_reader
    from idle_shimmer.transition.transition import Transition

    keep_freed_memory()
    resume_collection()
    recipe = read_recipe(options.recipe)
    frame_size = small or (_parse_size(options.size) if options.size else None)
    with ExitStack() as opened:
        one = opened.enter_context(VideoReader(options.outgoing, frame_size, deep=True))
        other = opened.enter_context(
            VideoReader(options.incoming, frame_size or one.size, deep=True)
        )
        rate = parse_rate(options.rate) if options.rate else one.facts.rate
        clips = RateConvertedClip(one, rate), RateConvertedClip(other, rate)
        outgoing_out = options.outgoing_out
        if outgoing_out is None:
            outgoing_out = clips[0].count or 0
        _require_inside(clips[0], outgoing_out, "--outgoing-out")
        _require_inside(clips[1], options.incoming_in, "--incoming-in")
        made = Transition(
            ReframedClip(clips[0]),
            ReframedClip(clips[1]),
            outgoing_out,
            options.incoming_in,
            _window(recipe, options.before, options.after, rate),
            recipe,
            rate=rate,
            matte_of=matte_reader(options.recipe.parent, one.size),
            sound_of=sound_reader(options.recipe.parent),
        )
        yield replace(made, subjects=_subjects(options, clips, made, opened))


def _require_inside(clip: "RateConvertedClip", number: int, option: str) -> None:
    if clip.count is not None and not 0 <= number <= clip.count:
        raise InvalidValue(
            f"{clip.name} has {clip.count} frames, so {number} lies outside it", field=option
        )


def _subjects(
    options: TransitionOptions,
    clips: "tuple[RateConvertedClip, RateConvertedClip]",
    made: "Transition",
    opened: ExitStack,
) -> "Subjects":
    """Return the subjects that strokes mark, where the recipe uses them; made when they are needed."""
    from idle_shimmer.cli.mattes import read_strokes
    from idle_shimmer.core.animation.retime import CLIP_SIDES
    from idle_shimmer.output.subject.opened_subject import MarkedSubject, OpenedSubject
    from idle_shimmer.transition.transition import Subjects

    found = {}
    for side, clip, file in zip(CLIP_SIDES, clips, options.strokes, strict=True):
        frames = made.subject_frames(side)
        if file is not None and frames is not None:
            marked = MarkedSubject(tuple(read_strokes(file, f"--{side}-strokes")))
            subject = OpenedSubject(clip, marked, frames)
            opened.callback(subject.close)
            found[side] = subject.alpha
    return Subjects(**found)


def _window(recipe: "Recipe", before: int | None, after: int | None, rate: "Fraction") -> "Window":
    from idle_shimmer.core.animation.timing import Window

    suggested = recipe.window.at_rate(rate) if recipe.window else None
    before = before if before is not None else suggested.before if suggested else None
    after = after if after is not None else suggested.after if suggested else None
    if before is None or after is None:
        raise InvalidValue(
            "the recipe suggests no window: give --before and --after", field="--before, --after"
        )
    return Window(before, after)


def _depth(bits: int | None) -> "Depth | None":
    match bits:
        case None | 8 | 16:
            return bits
    raise InvalidValue(f"{bits} is not a depth: give 8 or 16", field="--depth")


def _parse_size(text: str) -> tuple[int, int]:
    parts = text.lower().split("x")
    if len(parts) == 2 and all(part.isdigit() for part in parts):
        width, height = int(parts[0]), int(parts[1])
        if 2 <= width <= _MAX_SIDE_PX and 2 <= height <= _MAX_SIDE_PX:
            return width, height
    raise InvalidValue(f"'{text}' is not a frame size: write it as 1280x720", field="--size")
