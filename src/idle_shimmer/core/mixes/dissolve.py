"""The dissolve."""

from typing import Annotated, Literal

import cv2

from idle_shimmer.core.kernels.blend import blend
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import Picture


class Dissolve(SpannedMix):
    """A weighted sum of both pictures, of display values unless ``light`` says linear."""

    title = "Dissolve"
    purpose = "Fades one picture into the other."

    kind: Literal["dissolve"] = "dissolve"
    light: Annotated[Literal["display", "linear"], Parameter("Light", "choice")] = "display"

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Return outgoing · (1 - progress) + incoming · progress."""
        if self.light == "display":
            return blend(outgoing, incoming, progress, context.wanted)
        one, other = outgoing.to(self.light).pixels, incoming.to(self.light).pixels
        return Picture(cv2.addWeighted(one, 1 - progress, other, progress, 0.0), self.light)
