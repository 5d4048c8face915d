"""Strokes that say what belongs to the subject and what does not, and a box around it."""

import itertools
from collections.abc import Iterable
from typing import Annotated

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, field_validator

from idle_shimmer.core.errors import InvalidValue

_Thickness = Annotated[float, Field(gt=0, le=0.5, allow_inf_nan=False)]
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
    """What was drawn on one frame, in 0…1 of the frame, y down. ``box`` is x, y, width, height.

    ``keep_sizes`` and ``remove_sizes`` are how thick the lines are, in frame heights, in their order; lines without
    one are 0.02 thick.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    frame: Annotated[int, Field(ge=0)]
    box: tuple[_Share, _Share, _Share, _Share] | None = None
    keep: tuple[Line, ...] = ()
    remove: tuple[Line, ...] = ()
    keep_sizes: tuple[_Thickness, ...] = ()
    remove_sizes: tuple[_Thickness, ...] = ()

    @field_validator("box")
    @classmethod
    def _has_area(cls, value: tuple[float, ...] | None) -> tuple[float, ...] | None:
        if value is not None and (value[2] <= 0 or value[3] <= 0):
            raise ValueError("a box has a width and a height above 0")
        return value

    def drawn(self, labels: Labels) -> Labels:
        """Return ``labels`` (H, W) with the strokes drawn into them."""
        labels = labels.copy()
        for lines, sizes, value in (
            (self.remove, self.remove_sizes, BACKGROUND),
            (self.keep, self.keep_sizes, SUBJECT),
        ):
            for place, line in enumerate(lines):
                size = sizes[place] if place < len(sizes) else _THICKNESS
                _draw(labels, line, size, value)
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


def _draw(labels: Labels, line: Line, size: float, value: int) -> None:
    """Draw a line of ``size`` frame heights into ``labels``; a single point is a dot."""
    height, width = labels.shape
    thickness = max(1, round(size * height))
    places = np.rint(np.array(line, np.float64) * (width, height)).astype(np.int32)
    if len(line) == 1:
        x, y = (int(each) for each in places[0])
        cv2.circle(labels, (x, y), max(1, thickness // 2), value, -1)
    else:
        cv2.polylines(labels, [places.reshape(-1, 1, 2)], False, value, thickness)


_LIST = TypeAdapter(list[Strokes])


def strokes_from_json(text: str, field: str = "strokes") -> list[Strokes]:
    """Return strokes by frame. Raises InvalidValue that says what is wrong, and where, of ``field``."""
    try:
        found = _LIST.validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(each) for each in first["loc"])
        raise InvalidValue(f"strokes {place}: {first['msg']}", field=field) from error
    if not found:
        raise InvalidValue("there are no strokes: draw on one frame at least", field=field)
    return sorted_strokes(found, field)


def sorted_strokes(strokes: Iterable[Strokes], field: str = "strokes") -> list[Strokes]:
    """Return strokes in the order of their frames. Raises InvalidValue where they say nothing."""
    found = sorted(strokes, key=lambda each: each.frame)
    frames = [each.frame for each in found]
    twice = next((one for one, other in itertools.pairwise(frames) if one == other), None)
    if twice is not None:
        raise InvalidValue(f"frame {twice} has strokes twice: join them", field=field)
    if not any(each.keep or each.box for each in found):
        raise InvalidValue(
            "no stroke says what the subject is: draw a keep stroke or a box", field=field
        )
    return found
