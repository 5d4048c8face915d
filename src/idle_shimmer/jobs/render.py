"""Renders a snapshot of an edit, or of one of its cuts, into a file."""

import math
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ValidationError

from idle_shimmer.core.animation.retime import extra_source_frames
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.framing import UNFRAMED, Framing
from idle_shimmer.core.picture.encoding import Codes, DeepCodes
from idle_shimmer.core.picture.output import Depth, output_codes
from idle_shimmer.core.recipe import problems_of
from idle_shimmer.core.render import picture_of
from idle_shimmer.media.decoder_client import RemoteReader, probe_index, remote_sound_parts
from idle_shimmer.media.rate_conversion import RateConvertedClip
from idle_shimmer.media.reader import is_read_deep
from idle_shimmer.media.reframed import ReframedClip
from idle_shimmer.media.sound import Sound, faded_ends
from idle_shimmer.media.writer import output_depth, writing
from idle_shimmer.store.clips import matte_of_clip, path_of
from idle_shimmer.store.cuts import CutDocument
from idle_shimmer.transition import Transition

_REPORT_EVERY_FRAMES = 5


class Cancelled(Exception):
    """The render was cancelled, or the worker is stopping."""


class PlacedSnapshot(BaseModel):
    """A placed clip as it was when the render was created."""

    name: str
    file: str
    in_frame: int
    out_frame: int
    framing: Framing = UNFRAMED
    muted: bool = False


class Snapshot(BaseModel):
    """Everything that is rendered. ``cuts[i]`` is between ``placed[i]`` and ``placed[i + 1]``.

    ``margin`` is None for the whole edit; a number renders the one cut's window and that many
    original frames around it.
    """

    width: int
    height: int
    rate: str
    placed: list[PlacedSnapshot]
    cuts: list[CutDocument]
    margin: int | None = None

    def total_frames(self) -> int:
        """Return how many frames the render has."""
        if self.margin is None:
            return sum(each.out_frame - each.in_frame for each in self.placed)
        return self.cuts[0].before + self.cuts[0].after + 2 * self.margin


def render_snapshot(document: dict[str, Any], out: Path, go_on: Callable[[int], bool]) -> None:
    """Write the snapshot to ``out``. ``go_on`` receives the frames done; False cancels."""
    snapshot = _readable(document)
    size, rate = (snapshot.width, snapshot.height), parse_rate(snapshot.rate)
    # One file may be placed many times: it is indexed once.
    known = cache(probe_index)
    with ExitStack() as opened:
        readers = [
            opened.enter_context(RemoteReader(path, size, known(path), deep=True))
            for path in (path_of(each.file) for each in snapshot.placed)
        ]
        clips = [RateConvertedClip(each, rate) for each in readers]
        framed = [
            ReframedClip(clip, each.framing)
            for clip, each in zip(clips, snapshot.placed, strict=True)
        ]
        transitions = _transitions(snapshot, framed, rate, size)
        for each in transitions:
            each.require_frames(snapshot.margin or 0)
        sound = _sound(snapshot, clips, rate)
        is_deep = any(is_read_deep(each.facts, deep=True) for each in readers)
        depth = output_depth(out, source_is_deep=is_deep)
        with writing(out, size, rate, depth=depth, sound=sound) as writer:
            pictures = _pictures(snapshot, framed, transitions, depth, lambda i: readers[i].close())
            for done, picture in enumerate(pictures):
                if done % _REPORT_EVERY_FRAMES == 0 and not go_on(done):
                    raise Cancelled
                writer.write(picture)
    go_on(snapshot.total_frames())


def _readable(document: dict[str, Any]) -> Snapshot:
    try:
        return Snapshot.model_validate(document)
    except ValidationError as error:
        raise RecipeError(problems_of(error.errors())) from error


def _transitions(
    snapshot: Snapshot, clips: list[ReframedClip], rate: Fraction, size: tuple[int, int]
) -> list[Transition]:
    return [
        Transition(
            clips[i],
            clips[i + 1],
            snapshot.placed[i].out_frame,
            snapshot.placed[i + 1].in_frame,
            Window(cut.before, cut.after),
            cut.recipe,
            rate=rate,
            matte_of=matte_of_clip(size),
        )
        for i, cut in enumerate(snapshot.cuts)
    ]


def _pictures(
    snapshot: Snapshot,
    clips: list[ReframedClip],
    transitions: list[Transition],
    depth: Depth,
    finished: Callable[[int], None],
) -> Iterator[Codes | DeepCodes]:
    """Yield every frame in order; ``finished`` receives the place of each clip that is done."""
    if snapshot.margin is not None:
        yield from (picture for _, picture in transitions[0].outputs(snapshot.margin, depth))
        return
    for i in range(len(snapshot.placed)):
        for number in untreated_frames(snapshot, i):
            yield output_codes(picture_of(clips[i].frame(number)), depth, number)
        if i < len(transitions):
            yield from (picture for _, picture in transitions[i].outputs(0, depth))
        finished(i)


def untreated_frames(snapshot: Snapshot, place: int) -> list[int]:
    """Return the source frames of a placed clip between the windows at its two ends.

    Speed ramps use frames of it: the rest then plays a little slower or faster, so that it meets
    both windows without a jump. Raises InvalidValue where the ramps use more than there is.
    """
    placed = snapshot.placed[place]
    first, end = float(placed.in_frame), float(placed.out_frame)
    count = placed.out_frame - placed.in_frame
    if place > 0:
        cut = snapshot.cuts[place - 1]
        retime, window = cut.recipe.retime.incoming, Window(cut.before, cut.after)
        first += cut.after + extra_source_frames(retime, window, outgoing=False)
        count -= cut.after
    if place < len(snapshot.cuts):
        cut = snapshot.cuts[place]
        retime, window = cut.recipe.retime.outgoing, Window(cut.before, cut.after)
        end -= cut.before + extra_source_frames(retime, window, outgoing=True)
        count -= cut.before
    if count and end < first:
        raise InvalidValue(
            f"the speed ramps on {placed.name} use {first - end:.0f} frames more than it has between"
            " them: lower a speed or shorten a window",
            field="retime",
        )
    step = (end - first) / count if count else 1.0
    return [math.floor(first + (k + 0.5) * step + 1e-6) for k in range(count)]


def _sound(
    snapshot: Snapshot, clips: list[RateConvertedClip], rate: Fraction
) -> Iterator[Sound] | None:
    """Return the sound of each placed clip, read when it is needed; None where none has any."""
    if any(clip.reader.facts.has_sound for clip in clips):
        return _sounds(snapshot, clips, rate)
    return None


def _sounds(snapshot: Snapshot, clips: list[RateConvertedClip], rate: Fraction) -> Iterator[Sound]:
    last = len(snapshot.placed) - 1
    for i, placed in enumerate(snapshot.placed):
        first, end = placed.in_frame, placed.out_frame
        if snapshot.margin is not None:
            cut = snapshot.cuts[0]
            first = end - cut.before - snapshot.margin if i == 0 else first
            end = end if i == 0 else first + cut.after + snapshot.margin
        parts = remote_sound_parts(
            None if placed.muted else clips[i].reader.path,
            Fraction(first) / rate,
            Fraction(end - first) / rate,
        )
        yield from faded_ends(parts, at_start=i > 0, at_end=i < last)
