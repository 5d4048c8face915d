"""Proposals that match the two sides of a cut: position and scale, or colours."""

import uuid
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.preview.scene import Scene
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.framing import Framing, apply_framing
from idle_shimmer.core.matching import match_grade, match_placement
from idle_shimmer.core.picture.encoding import Picture

router = APIRouter(prefix="/api/cuts", tags=["cuts"], responses=REFUSALS)


class MatchAsked(BaseModel):
    """What of the incoming clip to match to the outgoing one, and their framing now."""

    what: Literal["placement", "colours"]
    outgoing: Framing = Framing()
    incoming: Framing = Framing()


class MatchOut(BaseModel):
    """The proposed framing; ``agreeing`` is how many features support it (0 for colours)."""

    framing: Framing
    agreeing: int


@router.post("/{cut_id}/match")
def match_sides(cut_id: uuid.UUID, asked: MatchAsked) -> MatchOut:
    """Propose how the incoming clip is framed or graded; nothing is changed."""
    one, other = (Picture.of_codes(each) for each in Scene(cut_id).cut_frames())
    outgoing = apply_framing(one, asked.outgoing).to("codes").pixels
    if asked.what == "colours":
        placed = asked.incoming.model_copy(update={"gain": (1, 1, 1), "offset": (0, 0, 0)})
        graded = match_grade(outgoing, apply_framing(other, placed).to("codes").pixels)
        update = {"gain": graded.gain, "offset": graded.offset}
        return MatchOut(framing=asked.incoming.model_copy(update=update), agreeing=0)
    found = match_placement(outgoing, other.pixels)
    if found is None:
        raise InvalidValue(
            "the two cut frames have too little in common to be matched: set the framing by hand,"
            " with both cut frames overlaid",
            field="placement",
        )
    update = {name: getattr(found.framing, name) for name in ("scale", "x", "y", "turn")}
    return MatchOut(framing=asked.incoming.model_copy(update=update), agreeing=found.agreeing)
