"""The morph: both pictures move towards each other along the optical flow between them."""

from typing import Literal

from idle_shimmer.core.kernels.optical_flow import interpolate
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.picture.encoding import Picture


class Morph(SpannedMix):
    """Dense optical flow across a jump in one shot; see ``kernels.optical_flow``."""

    title = "Morph"
    purpose = "Moves one picture into the other, across a jump within one shot."
    joins_one_shot = True

    kind: Literal["morph"] = "morph"

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Return a dissolve of outgoing, moved by ``progress``, and incoming, moved by the rest."""
        return interpolate(outgoing, incoming, progress)
