"""Renders one frame of a transition: sources, filters of each side, mix, subject, filters across.

Sources are RGB codes of 8 or 16 bits, or computed pictures, (H, W, 3). Frames are numbered from the cut.
Nothing is converted or rounded without need: where no filter and no mix works, the source itself is
returned; what is computed stays float until ``picture.output`` rounds it once.
"""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.retime import ClipSide
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.frame import Frame, Passing, sampled
from idle_shimmer.core.frame.needs import Needs, needs
from idle_shimmer.core.framing import FramedPicture
from idle_shimmer.core.mixes.base import MatteOf
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Encoding, Picture
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.subject.regions import Weight

# What a clip shows: codes as they are read, a picture that was computed from them, or one that is to be
# placed in the frame yet.
Source = Codes | DeepCodes | Picture | FramedPicture
_ANY_RATE = Fraction(25)


@dataclass(frozen=True)
class Mattes:
    """The mattes of the subjects of both source frames, float32 (H, W), 0…1, at the size of each source.

    None where a clip has no subject: it is background throughout.
    """

    outgoing: Weight | None = None
    incoming: Weight | None = None


NO_MATTES = Mattes()


def render_frame(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Source | None,
    incoming: Source | None,
    *,
    rate: Fraction = _ANY_RATE,
    matte_of: MatteOf | None = None,
    mattes: Mattes = NO_MATTES,
) -> Codes:
    """Return frame ``offset`` of the transition as the live preview shows it: uint8 (H, W, 3).

    Rounded to nearest without dither; arguments and errors are those of ``render_picture``.
    """
    picture = _rendered(
        recipe, window, offset, (outgoing, incoming, mattes), (rate, matte_of), resting="codes"
    )
    return picture.to("codes").pixels


def render_picture(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Source | None,
    incoming: Source | None,
    *,
    rate: Fraction = _ANY_RATE,
    matte_of: MatteOf | None = None,
    mattes: Mattes = NO_MATTES,
) -> Picture:
    """Return frame ``offset`` of the transition, (H, W, 3), unrounded.

    ``outgoing`` and ``incoming`` are the source frames shown at this offset, of one size; the one
    that ``needs`` does not ask for may be None. ``rate`` is in frames a second; ``matte_of`` gives
    the picture of a wipe by its id, ``mattes`` the subjects of both source frames. Raises InvalidValue where a needed source is missing.
    """
    return _rendered(
        recipe, window, offset, (outgoing, incoming, mattes), (rate, matte_of), resting="display"
    )


def _rendered(
    recipe: Recipe,
    window: Window,
    offset: int,
    sources: tuple[Source | None, Source | None, Mattes],
    surroundings: tuple[Fraction, MatteOf | None],
    resting: Encoding,
) -> Picture:
    """Render; ``resting`` is the encoding in which a mix gives what no filter takes further."""
    *pictures, mattes = sources
    outgoing, incoming = (None if each is None else _entering(each) for each in pictures)
    rate, matte_of = surroundings
    if outgoing is None or incoming is None:
        _require(needs(recipe, window, offset), offset, outgoing, incoming)
    if offset not in window:
        return sampled(_given(outgoing if offset < 0 else incoming))
    shape = _size_of(_given(outgoing if outgoing is not None else incoming))
    timeline = Timeline(recipe, window, rate, shape)
    frame = Frame(
        timeline,
        offset,
        {"outgoing": outgoing, "incoming": incoming},
        {"outgoing": mattes.outgoing, "incoming": mattes.incoming},
        resting,
    )
    return frame.rendered(matte_of)


def picture_of(source: Source) -> Picture:
    """Return a source as a picture, in its place."""
    return sampled(_entering(source))


def _entering(source: Source) -> Passing:
    return source if isinstance(source, Picture | FramedPicture) else Picture.of_codes(source)


def _size_of(passing: Passing) -> tuple[int, int]:
    if isinstance(passing, FramedPicture):
        return passing.size
    height, width = passing.pixels.shape[:2]
    return width, height


def _require(
    wanted: Needs, offset: int, outgoing: Passing | None, incoming: Passing | None
) -> None:
    for name, picture in (("outgoing", outgoing), ("incoming", incoming)):
        if picture is None and getattr(wanted, name):
            raise InvalidValue(f"frame {offset} needs the {name} clip", field=name)


def frame_coverage(timeline: Timeline, offset: int) -> NDArray[np.float32]:
    """Return how much of each pixel of frame ``offset`` shows picture: float32 (H, W), 0…1.

    Computed from the coordinate maps, not from black pixels. While the mix shows both sides, each
    counts by the mix's progress.
    """
    width, height = timeline.size
    whole: NDArray[np.float32] = np.ones((height, width), np.float32)
    if offset not in timeline.window:
        return whole
    frame = _shape_of(timeline, offset)
    progress = timeline.recipe.mix.progress(timeline.window.u_of_frame(offset))
    sides = whole
    if progress < 1:
        sides = frame.coverage("outgoing")
    if progress > 0:
        incoming = frame.coverage("incoming")
        sides = incoming if progress >= 1 else sides + np.float32(progress) * (incoming - sides)
    # Filters across move what the sides left uncovered along with the picture.
    return frame.coverage("across", sides)


def _given(picture: Passing | None) -> Passing:
    assert picture is not None
    return picture


def subject_coverage(timeline: Timeline, offset: int) -> NDArray[np.float32]:
    """Return where a subject layer may be seen in frame ``offset``: float32 (H, W), 0…1.

    Of a subject that fills its picture, moved by the filters on it.
    """
    return _shape_of(timeline, offset).coverage("subject")


def _shape_of(timeline: Timeline, offset: int) -> Frame:
    """Return a frame whose pictures do not matter."""
    nothing: dict[ClipSide, None] = {"outgoing": None, "incoming": None}
    return Frame(timeline, offset, dict(nothing), dict(nothing))
