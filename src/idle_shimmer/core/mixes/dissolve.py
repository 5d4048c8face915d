"""The dissolve."""

from typing import Annotated, Literal

import cv2

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.filters.blend import blended
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.picture import Picture


class Dissolve(SpannedMix):
    """A weighted sum of both pictures, in display light unless told otherwise."""

    title = "Dissolve"
    purpose = "Fades one picture into the other."

    kind: Literal["dissolve"] = "dissolve"
    light: Annotated[Literal["display", "linear"], Fact("Light", "choice")] = "display"

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Outgoing · (1 - progress) + incoming · progress."""
        if self.light == "display":
            return blended(outgoing, incoming, progress, context.wanted)
        one, other = outgoing.to(self.light).pixels, incoming.to(self.light).pixels
        return Picture(cv2.addWeighted(one, 1 - progress, other, progress, 0.0), self.light)
