"""Transitions from Python: arrays or open clips in, frames and sound out.

The names are those of the package itself: ``idle_shimmer.render_transition`` and
``idle_shimmer.open_clip``. See docs/guide/scripts.md.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, TypedDict, Unpack

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.book.entries import book
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.encoding import Codes, DeepCodes
from idle_shimmer.core.picture.output import Depth
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import VideoReader, is_read_deep
from idle_shimmer.media.read.reframed import ReframedClip
from idle_shimmer.media.read.wipe_pictures import matte_reader
from idle_shimmer.media.sound.accent_files import sound_reader
from idle_shimmer.media.sound.played_sound import HeardClip
from idle_shimmer.media.sound.sound_parts import Sound
from idle_shimmer.output.sound.window_sound import HeardSides, window_sound
from idle_shimmer.transition.missing_frames import require_frames
from idle_shimmer.transition.transition import Frames, Transition


class Clip:
    """An open clip: ``len(clip)`` frames of ``size`` (W, H) at ``rate``; ``clip[n]`` is frame n.

    Frames are (H, W, 3), RGB codes of the sRGB transfer: uint8, or uint16 where the file is deeper.
    Use it in a ``with`` statement, or ``close`` it.
    """

    def __init__(self, clip: RateConvertedClip) -> None:
        self._clip = clip

    @property
    def path(self) -> Path:
        """The file."""
        return self._clip.reader.path

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of its frames."""
        return self._clip.reader.size

    @property
    def rate(self) -> Fraction:
        """Frames per second."""
        return self._clip.rate

    @property
    def is_deep(self) -> bool:
        """Whether frames are uint16."""
        return is_read_deep(self._clip.reader.facts, deep=True)

    @property
    def has_sound(self) -> bool:
        """Whether the file has sound."""
        return self._clip.reader.facts.has_sound

    @property
    def name(self) -> str:
        """The file's name."""
        return self._clip.name

    @property
    def count(self) -> int | None:
        """The number of frames; None for a still, which has no end."""
        return self._clip.count

    def frame(self, number: int) -> Codes | DeepCodes:
        """Return frame ``number``."""
        return self._clip.frame(number)

    def __len__(self) -> int:
        if self.count is None:
            raise TypeError(f"{self.name} is a still: it has no length")
        return self.count

    def __getitem__(self, number: int) -> Codes | DeepCodes:
        return self.frame(number if number >= 0 else len(self) + number)

    def close(self) -> None:
        """Close the file."""
        self._clip.close()

    def __enter__(self) -> "Clip":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()


def open_clip(
    path: str | Path, size: tuple[int, int] | None = None, rate: Fraction | int | None = None
) -> Clip:
    """Return the clip in a file, filling ``size`` (W, H), at ``rate``: by default its own.

    Raises MediaError where the file cannot be read.
    """
    reader = VideoReader(Path(path), size, deep=True)
    return Clip(RateConvertedClip(reader, None if rate is None else Fraction(rate)))


class _Arrays:
    """A sequence of arrays as a clip."""

    def __init__(self, frames: Sequence[NDArray[Any]], name: str) -> None:
        self._frames, self.name = frames, name
        self.count: int | None = len(frames)

    def frame(self, number: int) -> Codes | DeepCodes:
        """Return frame ``number``. Raises InvalidValue where it is no picture."""
        picture = np.asarray(self._frames[number])
        if picture.ndim != 3 or picture.shape[2] != 3 or picture.dtype not in (np.uint8, np.uint16):
            raise InvalidValue(
                f"frame {number} of the {self.name} clip is {picture.dtype} {picture.shape}: give uint8"
                " or uint16 arrays (H, W, 3)",
                field=self.name,
            )
        return np.ascontiguousarray(picture)


@dataclass(frozen=True)
class RenderedTransition:
    """A transition that is computed as it is read.

    ``offsets`` are its frames, counted from the cut; iterate over it for their pictures, in order:
    (H, W, 3), uint8, or uint16 where a source is. ``sound`` is float32 stereo at 48 000 samples per
    second, (samples, 2), None where neither side is a clip with sound and the recipe has no accent.
    """

    transition: Transition
    offsets: range
    depth: Depth
    sound: Sound | None

    def __len__(self) -> int:
        return len(self.offsets)

    def __iter__(self) -> Iterator[Codes | DeepCodes]:
        for offset in self.offsets:
            yield self.frame(offset)

    def frame(self, offset: int) -> Codes | DeepCodes:
        """Return the frame ``offset`` from the cut, rounded once, as a render writes it."""
        return self.transition.output(offset).codes(self.depth)


Source = Clip | Sequence[NDArray[Any]]


class CutPlace(TypedDict, total=False):
    """Where two sources meet, and how many untreated frames are added on both sides."""

    outgoing_out: int | None
    incoming_in: int
    margin: int


def render_transition(
    outgoing: Source,
    incoming: Source,
    recipe: Recipe | str | Path | dict[str, Any],
    window: tuple[int, int] | None = None,
    rate: Fraction | int | None = None,
    **where: Unpack[CutPlace],
) -> RenderedTransition:
    """Return the transition between two clips or sequences of (H, W, 3) arrays.

    ``recipe`` is a recipe, the name of a built-in one, a JSON file or its content. ``window`` are the
    frames before and after the cut, by default those that the recipe suggests; ``rate`` is in frames per
    second, by default the outgoing clip's, or 25. ``outgoing_out`` (exclusive) and ``incoming_in`` are the
    frames at the cut: by default the outgoing clip's end and the incoming clip's first frame. ``margin``
    adds untreated frames on both sides.

    Raises InvalidValue where the sources lack frames or do not fit together, RecipeError for a wrong
    recipe.
    """
    made, folder = _recipe_of(recipe)
    outgoing_out, incoming_in = where.get("outgoing_out"), where.get("incoming_in", 0)
    margin = where.get("margin", 0)
    sides = _clip_of(outgoing, "outgoing"), _clip_of(incoming, "incoming")
    own_rate = outgoing.rate if isinstance(outgoing, Clip) else Fraction(25)
    per_second = own_rate if rate is None else Fraction(rate)
    out = outgoing_out if outgoing_out is not None else sides[0].count
    if out is None:
        raise InvalidValue("a still has no end: give outgoing_out", field="outgoing_out")
    frames = [sides[0].frame(max(0, out - 1)), sides[1].frame(incoming_in)]
    if frames[0].shape != frames[1].shape:
        raise InvalidValue(
            f"the clips have frames of {frames[0].shape} and {frames[1].shape}: open them with one size",
            field="incoming",
        )
    height, width = frames[0].shape[:2]
    transition = Transition(
        _fitted(sides[0]),
        _fitted(sides[1]),
        out,
        incoming_in,
        _window_of(made, window, per_second),
        made,
        rate=per_second,
        matte_of=matte_reader(folder, (width, height)),
        sound_of=sound_reader(folder),
    )
    require_frames(transition, margin)
    offsets = range(-transition.window.before - margin, transition.window.after + margin)
    depth: Depth = 16 if any(each.dtype == np.uint16 for each in frames) else 8
    return RenderedTransition(
        transition, offsets, depth, _sound_of(transition, offsets, outgoing, incoming)
    )


def _clip_of(source: Source, name: str) -> Clip | _Arrays:
    return source if isinstance(source, Clip) else _Arrays(source, name)


def _fitted(source: Clip | _Arrays) -> Frames:
    """Return a source as it enters its transition."""
    return ReframedClip(source._clip) if isinstance(source, Clip) else source


def _recipe_of(recipe: Recipe | str | Path | dict[str, Any]) -> tuple[Recipe, Path]:
    """Return the recipe, and the folder of its mattes."""
    if isinstance(recipe, Recipe):
        return recipe, Path()
    if isinstance(recipe, dict):
        return recipe_from_json(recipe), Path()
    if isinstance(recipe, str) and recipe in book():
        return book()[recipe].recipe, Path()
    path = Path(recipe)
    if not path.is_file():
        raise InvalidValue(
            f"there is no recipe '{recipe}': give a built-in one or a JSON file", field="recipe"
        )
    return recipe_from_json(path.read_text(encoding="utf-8")), path.parent


def _window_of(recipe: Recipe, window: tuple[int, int] | None, rate: Fraction) -> Window:
    if window is not None:
        return Window(*window)
    if recipe.window is None:
        raise InvalidValue("the recipe suggests no window: give one", field="window")
    return recipe.window.at_rate(rate)


def _sound_of(
    transition: Transition, offsets: range, outgoing: Source, incoming: Source
) -> Sound | None:
    heard = HeardSides(_heard(outgoing), _heard(incoming))
    if not (heard.outgoing.file or heard.incoming.file) and transition.recipe.accent is None:
        return None
    return np.concatenate(list(window_sound(transition, offsets, heard)))


def _heard(source: Source) -> HeardClip:
    return HeardClip(source.path if isinstance(source, Clip) and source.has_sound else None)
