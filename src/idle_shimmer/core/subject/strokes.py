"""Strokes that say what belongs to the subject and what does not, and a box around it."""

import itertools
from typing import Annotated

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, field_validator

from idle_shimmer.core.errors import InvalidValue

_Share = Annotated[float, Field(ge=-1, le=2, allow_inf_nan=False)]
Point = tuple[_Share, _Share]
Line = Annotated[tuple[Point, ...], Field(min_length=1, max_length=10_000)]
# How thick a stroke is, of the frame's height.
_THICKNESS = 0.02
# What is known of a pixel, as OpenCV's GrabCut numbers it.
BACKGROUND, SUBJECT, MAYBE_BACKGROUND, MAYBE_SUBJECT = (
    int(each) for each in (cv2.GC_BGD, cv2.GC_FGD, cv2.GC_PR_BGD, cv2.GC_PR_FGD)
)
Labels = NDArray[np.uint8]


class Strokes(BaseModel):
    """What was drawn on one frame, in 0…1 of the frame, y down. ``box`` is x, y, width, height."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    frame: Annotated[int, Field(ge=0)]
    box: tuple[_Share, _Share, _Share, _Share] | None = None
    keep: tuple[Line, ...] = ()
    remove: tuple[Line, ...] = ()

    @field_validator("box")
    @classmethod
    def _has_area(cls, value: tuple[float, ...] | None) -> tuple[float, ...] | None:
        if value is not None and (value[2] <= 0 or value[3] <= 0):
            raise ValueError("a box has a width and a height above 0")
        return value

    def drawn(self, labels: Labels) -> Labels:
        """Return ``labels`` (H, W) with the strokes drawn into them."""
        labels = labels.copy()
        height, width = labels.shape
        thickness = max(1, round(_THICKNESS * height))
        for lines, value in ((self.remove, BACKGROUND), (self.keep, SUBJECT)):
            for line in lines:
                points = np.array(line, np.float64) * (width, height)
                places = [np.rint(points).astype(np.int32).reshape(-1, 1, 2)]
                if len(line) == 1:
                    x, y = (int(each) for each in places[0].reshape(2))
                    cv2.circle(labels, (x, y), thickness, value, -1)
                else:
                    cv2.polylines(labels, places, isClosed=False, color=value, thickness=thickness)
        return labels

    def drawn_as(self, labels: Labels, value: int) -> NDArray[np.bool_]:
        """Return where the strokes of one kind lie, ``BACKGROUND`` or ``SUBJECT``, bool (H, W)."""
        return np.asarray(self.drawn(np.full_like(labels, MAYBE_BACKGROUND)) == value)

    def first_labels(self, size: tuple[int, int]) -> Labels:
        """Return what they say of a frame of ``size`` (W, H) of which nothing else is known."""
        width, height = size
        if self.box is None:
            labels = np.full((height, width), MAYBE_BACKGROUND, np.uint8)
        else:
            labels = np.full((height, width), BACKGROUND, np.uint8)
            x, y, w, h = self.box
            rows = slice(max(0, round(y * height)), max(0, round((y + h) * height)))
            columns = slice(max(0, round(x * width)), max(0, round((x + w) * width)))
            labels[rows, columns] = MAYBE_SUBJECT
        return self.drawn(labels)


_LIST = TypeAdapter(list[Strokes])


def strokes_from_json(text: str) -> list[Strokes]:
    """Return strokes by frame. Raises InvalidValue that says what is wrong, and where."""
    try:
        found = _LIST.validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(each) for each in first["loc"])
        raise InvalidValue(f"strokes {place}: {first['msg']}", field="--strokes") from error
    found = sorted(found, key=lambda each: each.frame)
    if not found:
        raise InvalidValue("there are no strokes: draw on one frame at least", field="--strokes")
    frames = [each.frame for each in found]
    twice = next((one for one, other in itertools.pairwise(frames) if one == other), None)
    if twice is not None:
        raise InvalidValue(f"frame {twice} has strokes twice: join them", field="--strokes")
    if not any(each.keep or each.box for each in found):
        raise InvalidValue(
            "no stroke says what the subject is: draw a keep stroke or a box", field="--strokes"
        )
    return found
