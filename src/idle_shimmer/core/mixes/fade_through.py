"""The fade through a colour."""

from typing import Literal

import numpy as np

from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.parameters import coloured
from idle_shimmer.core.picture.encoding import Picture, display_of_colour


class FadeThrough(SpannedMix):
    """Outgoing fades to ``colour`` in the first half, incoming fades in from it in the second.

    Display values are mixed, as in dissolves.
    """

    title = "Fade through a colour"
    purpose = "Fades out to a colour, then in from it."

    kind: Literal["fade_through"] = "fade_through"
    colour: coloured("Colour") = "#000000"  # type: ignore[valid-type]

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Return the clip of this half, mixed with the colour."""
        shown = outgoing if progress < 0.5 else incoming
        share = np.float32(abs(2 * progress - 1))
        through = display_of_colour(self.colour)
        return Picture(shown.to("display").pixels * share + through * (1 - share), "display")
