"""Single frames of a recipe over a window, for tests that have no clips."""

from fractions import Fraction

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.frame import render
from idle_shimmer.core.frame.frame_plan import ANY_RATE, FramePlan
from idle_shimmer.core.frame.render import NO_MATTES, Mattes, Source, Sources
from idle_shimmer.core.mixes.base import MatteOf
from idle_shimmer.core.picture.encoding import Codes, Picture
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe


def render_frame(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Source | None,
    incoming: Source | None,
    *,
    rate: Fraction = ANY_RATE,
    matte_of: MatteOf | None = None,
    mattes: Mattes = NO_MATTES,
) -> Codes:
    """Return frame ``offset`` as the preview shows it."""
    plan = FramePlan(placed(recipe, window, rate), window, offset, rate)
    return render.render_frame(plan, Sources(outgoing, incoming, mattes), matte_of)


def render_picture(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Source | None,
    incoming: Source | None,
    *,
    mattes: Mattes = NO_MATTES,
) -> Picture:
    """Return frame ``offset`` unrounded."""
    return render.render_picture(
        FramePlan(placed(recipe, window, ANY_RATE), window, offset),
        Sources(outgoing, incoming, mattes),
    )
