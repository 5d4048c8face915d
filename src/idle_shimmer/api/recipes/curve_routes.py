"""What the lanes ask about a curve: keyframes with a value on one frame, or with a side copied."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.core.animation.envelope import NumberEnvelope, Point, PointEnvelope
from idle_shimmer.core.animation.keyframing.side_copy import Copying, with_side_copied
from idle_shimmer.core.animation.keyframing.value_on_frame import Keyframing, with_value_on_frame
from idle_shimmer.core.animation.retime import SPEED
from idle_shimmer.core.animation.times import Placing
from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.filters.base import registered
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.recipe import SideFrames

router = APIRouter(prefix="/api/curves", tags=["recipes"])
# What carries the speed of a clip in place of a filter's kind.
RETIME = "retime"
_Number = Annotated[float, Field(strict=True, allow_inf_nan=False)]


class CurveIn(BaseModel):
    """A curve: its envelope, whose parameter it is (``filter`` is a kind, or "retime"), and its window.

    Times in frames are those of the window; ``times`` is the recipe's.
    """

    filter: str
    parameter: str
    envelope: NumberEnvelope | PointEnvelope
    before: SideFrames
    after: SideFrames
    times: Literal["exact", "frames"] = "exact"

    def known_parameter(self) -> Parameter:
        """Return the parameter that is meant. Raises InvalidValue where there is none."""
        if self.filter == RETIME:
            return SPEED
        kind = registered().get(self.filter)
        found = None if kind is None else kind.parameters().get(self.parameter)
        if found is None or found.control in ("choice", "switch", "colour", "seed", "matte"):
            raise InvalidValue(
                f"{self.filter} has no parameter '{self.parameter}' with a curve",
                field="parameter",
            )
        return found

    def about(self) -> Keyframing:
        """Return what the envelope is of, and the window it lies in."""
        parameter = self.known_parameter()
        placing = Placing(Window(self.before, self.after), on_frames=self.times == "frames")
        rest: Any = 0.0 if parameter.rest is None else parameter.rest
        return Keyframing(rest, parameter.interpolation, placing)


class ValueOnFrame(BaseModel):
    """A value to be shown on the frame ``offset`` from the cut; None keeps what is shown there."""

    curve: CurveIn
    offset: Annotated[int, Field(ge=-MAX_SIDE_FRAMES, lt=MAX_SIDE_FRAMES)]
    value: _Number | Point | None = None


class SideCopy(BaseModel):
    """The outgoing side of a curve, to be copied to the incoming side."""

    curve: CurveIn
    how: Copying


class CurveOut(BaseModel):
    """The envelope, as a recipe states it."""

    envelope: dict[str, Any]


@router.post("/value")
def set_value(asked: ValueOnFrame) -> CurveOut:
    """Return keyframes that show a value on one frame; every other frame follows from its neighbours."""
    curve, about = asked.curve, asked.curve.about()
    if asked.offset not in about.placing.window:
        raise InvalidValue(
            f"frame {asked.offset} lies outside the window of {curve.before} | {curve.after} frames",
            field="offset",
        )
    value = asked.value
    if value is not None and isinstance(value, tuple) != _is_point(curve):
        raise InvalidValue("a point takes [x, y], any other parameter a number", field="value")
    return _checked(with_value_on_frame(curve.envelope, asked.offset, value, about), curve)


@router.post("/side")
def copy_side(asked: SideCopy) -> CurveOut:
    """Return a curve whose incoming side is the outgoing one, mirrored at the cut or repeated."""
    return _checked(
        with_side_copied(asked.curve.envelope, asked.how, asked.curve.about()), asked.curve
    )


def _is_point(curve: CurveIn) -> bool:
    return curve.known_parameter().control == "point"


def _checked(made: Any, curve: CurveIn) -> CurveOut:
    try:
        curve.known_parameter().check(made)
    except ValueError as error:
        raise InvalidValue(str(error), field="value") from error
    return CurveOut(envelope=made.model_dump(mode="json", by_alias=True, exclude_none=True))
