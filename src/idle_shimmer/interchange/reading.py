"""The edit of what was found in a timeline, every value of it checked."""

from typing import Annotated, Any

from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, parse_rate
from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.mixes.wipe_shapes.base import shapes
from idle_shimmer.core.recipe import SideFrames, problems_of, recipe_from_json
from idle_shimmer.interchange.found import FoundClip, FoundCut, FoundTimeline
from idle_shimmer.interchange.kept_clips import AS_PLACED, kept_clip
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut
from idle_shimmer.limits import (
    MAX_CLIPS_IN_EDIT,
    MAX_FRAME,
    MAX_NAME_LENGTH,
    MAX_SIDE_PX,
    MIN_SIDE_PX,
)

_MAX_NOTES, _MAX_NOTE = 40, 600


class _KeptCut(BaseModel):
    """What our own timelines keep of a cut."""

    before: SideFrames
    after: SideFrames
    recipe: dict[str, Any]


_Side = Annotated[int, Field(strict=True, ge=MIN_SIDE_PX, le=MAX_SIDE_PX)]
_SIZE: TypeAdapter[tuple[int, int] | None] = TypeAdapter(tuple[_Side, _Side] | None)


def edit_of(found: FoundTimeline, name: str) -> EditDocument:
    """Return the edit that was found in the file called ``name``.

    Without our own metadata a standard transition becomes a mix over its own frames: a dissolve, or
    the wipe of its code. Raises InvalidValue that says what is wrong.
    """
    if len(found.clips) > MAX_CLIPS_IN_EDIT:
        raise InvalidValue(
            f"{name} has {len(found.clips)} clips: an edit has at most {MAX_CLIPS_IN_EDIT}",
            field="file",
        )
    if len(found.cuts) != len(found.clips) - 1:
        raise InvalidValue(f"{name} cannot be read: it is damaged. Export it again", field="file")
    shots = [_shot(each) for each in found.clips]
    if any(not 0 <= shot.in_frame < shot.out_frame <= MAX_FRAME for shot in shots):
        raise InvalidValue(f"{name} has a clip without frames, or before its start", field="file")
    return EditDocument(
        found.name[:MAX_NAME_LENGTH],
        parse_rate(found.rate),
        _size(found.size, name),
        shots,
        [_join(each, f"cut {n} of {name}") for n, each in enumerate(found.cuts, 1)],
        [each[:_MAX_NOTE] for each in found.notes[:_MAX_NOTES]],
    )


def _size(found: Any, name: str) -> tuple[int, int] | None:
    try:
        return _SIZE.validate_python(found)
    except ValidationError as error:
        raise InvalidValue(
            f"{name} asks for a frame size of {str(found)[:60]}: sides have {MIN_SIDE_PX} to"
            f" {MAX_SIDE_PX} px",
            field="file",
        ) from error


def _shot(clip: FoundClip) -> TimelineClip:
    kept = AS_PLACED if clip.placed is None else kept_clip(clip.placed, clip.file)
    first, end = kept.frames((clip.first, clip.end))
    return TimelineClip(clip.file, first, end, is_timecode=clip.is_timecode, kept=kept)


def _join(cut: FoundCut, place: str) -> TimelineCut:
    """Return the window and recipe of a cut; ``place`` says where it is."""
    if cut.kept is not None:
        try:
            kept = _KeptCut.model_validate(cut.kept)
            return TimelineCut(kept.before, kept.after, recipe_from_json(kept.recipe))
        except ValidationError as error:
            raise _wrong(place, RecipeError(problems_of(error.errors()))) from error
        except RecipeError as error:
            raise _wrong(place, error) from error
    if cut.ahead == cut.behind == 0:
        return TimelineCut(1, 1)
    if not (0 <= cut.ahead <= MAX_SIDE_FRAMES and 0 <= cut.behind <= MAX_SIDE_FRAMES):
        raise InvalidValue(
            f"the transition at {place} has {cut.ahead} and {cut.behind} frames: a side of the window has"
            f" at most {MAX_SIDE_FRAMES}",
            field="file",
        )
    mix = _mix(cut.wipe_code)
    span = [-1.0 if cut.ahead else 0.0, 1.0 if cut.behind else 0.0]
    recipe = recipe_from_json({"name": mix["kind"].capitalize(), "mix": {**mix, "span": span}})
    return TimelineCut(max(1, cut.ahead), max(1, cut.behind), recipe)


def _mix(wipe_code: int | None) -> dict[str, Any]:
    if wipe_code is None:
        return {"kind": "dissolve"}
    shape = next((each for each in shapes().values() if each.code == wipe_code), None)
    if shape is None:
        return {"kind": "wipe"}
    return {"kind": "wipe", "matte": {"type": shape.type, "subtype": shape.subtype}}


def _wrong(place: str, error: RecipeError) -> InvalidValue:
    return InvalidValue(
        f"what the file keeps of {place} is wrong: {error.messages()}", field="file"
    )
