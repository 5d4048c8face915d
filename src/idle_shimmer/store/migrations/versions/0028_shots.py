"""Placed clips know the shot that they lie in: of edits that were made by detection, the detected one."""

from fractions import Fraction
from math import ceil, floor
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0028"
down_revision = "0027"
_THRESHOLD = 0.5
_PLACED = sa.text(
    "SELECT placed_clip.id, in_frame, out_frame, scores, clip.rate AS own, edit.rate AS rate"
    " FROM placed_clip JOIN clip ON clip.id = clip_id JOIN edit ON edit.id = edit_id"
    " JOIN cut_detection ON cut_detection.clip_id = clip.id"
    " WHERE cut_detection.state = 'done' AND clip.constant_rate"
)


def upgrade() -> None:
    """Add the shot, [first, last] in frames of the clip at the edit's rate; null is the whole clip."""
    op.add_column("placed_clip", sa.Column("shot", JSONB(none_as_null=True)))
    connection = op.get_bind()
    for placed in connection.execute(_PLACED).mappings().all():
        shot = _shot_of(placed)
        if shot is not None:
            connection.execute(
                sa.text("UPDATE placed_clip SET shot = :shot WHERE id = :id").bindparams(
                    sa.bindparam("shot", shot, type_=JSONB), id=placed["id"]
                )
            )


def _shot_of(placed: Any) -> list[int] | None:
    """Return the shot between the detected cuts on both sides; None where there is no cut."""
    scores, factor = placed["scores"], Fraction(placed["rate"]) / Fraction(placed["own"])
    # The first frame of the edit that shows a picture: at the middle of its time.
    cuts = [
        max(0, ceil(number * factor - Fraction(1, 2)))
        for number, score in enumerate(scores)
        if number and score >= _THRESHOLD
    ]
    first = max((each for each in cuts if each <= placed["in_frame"]), default=0)
    end = min((each for each in cuts if each >= placed["out_frame"]), default=None)
    if end is None:
        end = floor(len(scores) * factor + Fraction(1, 2))
        if not first:
            return None
    return [first, max(end, placed["out_frame"]) - 1]
