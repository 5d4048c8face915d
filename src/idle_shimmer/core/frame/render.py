"""Renders one frame of a transition: sources, filters of each side, mix, subject, filters across.

Sources are RGB codes of 8 or 16 bits, or computed pictures, (H, W, 3). Frames are numbered from the cut.
Nothing is converted or rounded without need: where no filter and no mix works, the source itself is
returned; what is computed stays float until ``picture.output`` rounds it once.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.retime import CLIP_SIDES
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.filtering import Filtering, Passing, sampled
from idle_shimmer.core.frame.frame import Entering, Frame
from idle_shimmer.core.frame.frame_plan import FramePlan
from idle_shimmer.core.framing import FramedPicture
from idle_shimmer.core.mixes.base import MatteOf
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Encoding, Picture
from idle_shimmer.core.subject.regions import Weight

# What a clip shows: codes as they are read, a picture that was computed from them, or one that is to be
# placed in the frame yet.
Source = Codes | DeepCodes | Picture | FramedPicture


@dataclass(frozen=True)
class Mattes:
    """The mattes of the subjects of both source frames, float32 (H, W), 0…1, at the size of each source.

    None where a clip has no subject: it is background throughout.
    """

    outgoing: Weight | None = None
    incoming: Weight | None = None


NO_MATTES = Mattes()


@dataclass(frozen=True)
class Sources:
    """What both clips show at a frame, of one size, and the mattes of their subjects.

    The one that the plan does not need may be None.
    """

    outgoing: Source | None
    incoming: Source | None
    mattes: Mattes = NO_MATTES

    def entering(self) -> Entering:
        """Return them as they enter the filters."""
        outgoing, incoming = (
            None if each is None else _entering(each) for each in (self.outgoing, self.incoming)
        )
        return Entering(outgoing, incoming, self.mattes.outgoing, self.mattes.incoming)


def render_frame(plan: FramePlan, sources: Sources, matte_of: MatteOf | None = None) -> Codes:
    """Return the frame of a plan as the live preview shows it: uint8 (H, W, 3).

    Rounded to nearest without dither; arguments and errors are those of ``render_picture``.
    """
    return _rendered(plan, sources, matte_of, resting="codes").to("codes").pixels


def render_picture(plan: FramePlan, sources: Sources, matte_of: MatteOf | None = None) -> Picture:
    """Return the frame of a plan, (H, W, 3), unrounded.

    ``matte_of`` gives the picture of a wipe by its id. Raises InvalidValue where a needed source is
    missing.
    """
    return _rendered(plan, sources, matte_of, resting="display")


def _rendered(
    plan: FramePlan, sources: Sources, matte_of: MatteOf | None, resting: Encoding
) -> Picture:
    """Render; ``resting`` is the encoding in which a mix gives what no filter takes further."""
    entering = sources.entering()
    for side in CLIP_SIDES:
        if entering.picture(side) is None and getattr(plan.needs, side):
            raise InvalidValue(f"frame {plan.offset} needs the {side} clip", field=side)
    if not plan.is_inside:
        return entering.shown(plan.own_side)
    size = _size_of(entering.outgoing if entering.outgoing is not None else entering.incoming)
    return Frame(plan, size, entering, resting).rendered(matte_of)


def picture_of(source: Source) -> Picture:
    """Return a source as a picture, in its place."""
    return sampled(_entering(source))


def _entering(source: Source) -> Passing:
    return source if isinstance(source, Picture | FramedPicture) else Picture.of_codes(source)


def _size_of(passing: Passing | None) -> tuple[int, int]:
    assert passing is not None
    if isinstance(passing, FramedPicture):
        return passing.size
    height, width = passing.pixels.shape[:2]
    return width, height


def frame_coverage(timeline: Timeline, offset: int) -> NDArray[np.float32]:
    """Return how much of each pixel of frame ``offset`` shows picture: float32 (H, W), 0…1.

    Computed from the coordinate maps, not from black pixels. While the mix shows both sides, each
    counts by the mix's progress.
    """
    width, height = timeline.size
    whole: NDArray[np.float32] = np.ones((height, width), np.float32)
    plan = FramePlan.of(timeline, offset)
    if not plan.is_inside:
        return whole
    shape, progress = _shape_of(plan, timeline.size), plan.progress
    sides = whole
    if progress < 1:
        sides = shape.coverage("outgoing")
    if progress > 0:
        incoming = shape.coverage("incoming")
        sides = incoming if progress >= 1 else sides + np.float32(progress) * (incoming - sides)
    # Filters across move what the sides left uncovered along with the picture.
    return shape.coverage("across", sides)


def subject_coverage(timeline: Timeline, offset: int) -> NDArray[np.float32]:
    """Return where a subject layer may be seen in frame ``offset``: float32 (H, W), 0…1.

    Of a subject that fills its picture, moved by the filters on it.
    """
    plan = FramePlan.of(timeline, offset)
    return _shape_of(plan, timeline.size).coverage("subject")


def _shape_of(plan: FramePlan, size: tuple[int, int]) -> Filtering:
    """Return the filters of a frame whose pictures do not matter."""
    return Filtering(plan.filters(size), Entering().shown)
