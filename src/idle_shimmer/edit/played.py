"""What the placed clips of a stored edit show, with the speed ramps at its cuts."""

from fractions import Fraction
from typing import Any

from pydantic import ValidationError
from sqlalchemy.orm import Session

from idle_shimmer.core.animation.edit_timing import CutTiming, PlayedRange, played_ranges
from idle_shimmer.core.animation.retime import CLIP_SIDES, Retimes
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.placed import placed
from idle_shimmer.store.cuts.cut_rows import CutRow, cut_rows
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.edits.edits import conformed_count
from idle_shimmer.store.edits.placed_clips import shot_of
from idle_shimmer.store.tables import Edit
from idle_shimmer.transition.transition import SlipRoom


def played_of(session: Session, edit: Edit, rows: list[CutRow] | None = None) -> list[PlayedRange]:
    """Return what each placed clip of ``edit`` shows; ``rows`` are its cuts, where they are known."""
    ranges, rate = [(each.in_frame, each.out_frame) for each in edit.placed], parse_rate(edit.rate)
    cuts = [_timing_of(row, rate) for row in (cut_rows(session, edit) if rows is None else rows)]
    return played_ranges(ranges, cuts)


def slip_rooms(edit: Edit) -> list[SlipRoom]:
    """Return, for each cut of ``edit``, the source frames of the shots beyond the far ends of its clips."""
    rate = parse_rate(edit.rate)
    ahead, behind = [], []
    for each in edit.placed:
        shot = shot_of(each).of(conformed_count(each.clip, rate))
        ahead.append(None if shot is None else each.in_frame - shot.start)
        behind.append(None if shot is None else shot.stop - each.out_frame)
    return [SlipRoom(*ends) for ends in zip(ahead[:-1], behind[1:], strict=True)]


def _timing_of(row: CutRow, rate: Fraction) -> CutTiming:
    """Return the window and ramps of a cut; a recipe that cannot be read has no ramps."""
    window = row.window()
    if not _has_ramp(row.document):
        return CutTiming(window, Retimes())
    try:
        recipe = CutDocument.model_validate(row.document).recipe
    except ValidationError:
        return CutTiming(window, Retimes())
    return CutTiming(window, placed(recipe, window, rate).retime)


def _has_ramp(document: Any) -> bool:
    """Whether a stored document states a speed: reading every recipe would take too long."""
    recipe = document.get("recipe") if isinstance(document, dict) else None
    retimes = recipe.get("retime") if isinstance(recipe, dict) else None
    if not isinstance(retimes, dict):
        return False
    sides = [retimes.get(side) for side in CLIP_SIDES]
    return any(isinstance(side, dict) and side.get("speed", 1) != 1 for side in sides)
