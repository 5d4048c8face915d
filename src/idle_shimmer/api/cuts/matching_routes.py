"""Proposals that match the two sides of a cut: position and scale, or colours."""

import uuid
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.fit.frame_pairs import ALIKE, best_pairs, similarity_map
from idle_shimmer.core.fit.matching import match_grade, match_placement
from idle_shimmer.core.framing import Framing, apply_framing
from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.edit.scene import Scene

MAX_REACH = 12
router = APIRouter(prefix="/api/cuts", tags=["cuts"])


class MatchAsked(BaseModel):
    """What of the incoming clip to match to the outgoing one, and their framing now."""

    what: Literal["placement", "colours"]
    outgoing: Framing = Framing()
    incoming: Framing = Framing()


class MatchOut(BaseModel):
    """The proposed framing; ``agreeing`` is how many features support it (0 for colours)."""

    framing: Framing
    agreeing: int


class PairOut(BaseModel):
    """Frames that would meet: how far from those at the cut now, and how alike they are, 0…1."""

    outgoing: int
    incoming: int
    similarity: float


class PairsOut(BaseModel):
    """The similarity of every pair, by rows of outgoing frames, and the best pairs.

    The first row and column are ``first_outgoing`` and ``first_incoming`` frames from the cut's. ``alike``
    is False where no pair stands out: the clips show different things.
    """

    first_outgoing: int
    first_incoming: int
    similarity: list[list[float]]
    best: list[PairOut]
    alike: bool


@router.get("/{cut_id}/frame-pairs")
def frame_pairs(
    cut_id: uuid.UUID, reach: Annotated[int, Query(ge=1, le=MAX_REACH)] = MAX_REACH
) -> PairsOut:
    """Compare the frames around the cut: which of outgoing, shown at the cut, meets which of incoming.

    A pair is the frame of outgoing that would come next and the first one of incoming.
    """
    outgoing, incoming = Scene(cut_id).frames_around(reach)
    if min(len(outgoing.frames), len(incoming.frames)) < 2:
        raise InvalidValue(
            "matching needs at least two frames on both sides of the cut: a still has no others",
            field="reach",
        )
    similarity = similarity_map(outgoing.frames, incoming.frames)
    best = [
        PairOut(
            outgoing=each.outgoing + outgoing.first,
            incoming=each.incoming + incoming.first,
            similarity=round(each.similarity, 3),
        )
        for each in best_pairs(similarity)
    ]
    return PairsOut(
        first_outgoing=outgoing.first,
        first_incoming=incoming.first,
        similarity=[[round(float(value), 3) for value in row] for row in similarity],
        best=best,
        alike=bool(best) and best[0].similarity >= ALIKE,
    )


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
