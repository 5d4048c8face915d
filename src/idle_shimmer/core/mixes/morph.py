"""The morph: each picture moves towards the other along the optical flow between them."""

from typing import Literal

from idle_shimmer.core.filters.flow import between
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.picture import Picture


class Morph(SpannedMix):
    """Dense optical flow across a jump in one shot; see ``filters.flow``."""

    title = "Morph"
    purpose = "Moves one picture into the other, across a jump within one shot."

    kind: Literal["morph"] = "morph"

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Outgoing moved by ``progress`` of its flow, incoming by the rest of its own, dissolved."""
        return between(outgoing, incoming, progress)
