"""The catalogue of filters and mixes, from which the page makes its controls."""

from typing import Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.core.animation.values import Interpolation
from idle_shimmer.core.catalogue import catalogue
from idle_shimmer.core.orientation import Orientation
from idle_shimmer.core.parameters import Control, Unit

router = APIRouter(prefix="/api/catalogue", tags=["catalogue"])


class UnitWhenOut(BaseModel):
    """Another unit and usual value while the choice ``parameter`` is ``value``."""

    parameter: str
    value: str
    unit: Unit
    usual: float


class ParameterOut(BaseModel):
    """One parameter of a filter or mix."""

    name: str
    label: str
    control: Control
    unit: Unit
    default: Any
    choices: list[str] | None = None
    rest: float | None = None
    low: float | None = None
    high: float | None = None
    step: float | None = None
    usual: float | None = None
    moves: Literal["swell", "travel", "hold"] = "hold"
    can_follow: bool = False
    periodic: bool = False
    orientation: Orientation | None = None
    interpolation: Interpolation = "linear"
    unit_when: UnitWhenOut | None = None


class FilterOut(BaseModel):
    """One kind of filter."""

    kind: str
    title: str
    family: str
    purpose: str
    geometry: bool
    moving: bool
    direction_parameter: str | None
    parameters: list[ParameterOut]


class MixOut(BaseModel):
    """One kind of mix."""

    kind: str
    title: str
    purpose: str
    spanned: bool
    moving: bool
    parameters: list[ParameterOut]


class ShapeOut(BaseModel):
    """A wipe shape of W3C SMIL 3.0 Transition Effects, with its SMPTE code."""

    type: str
    subtype: str
    code: int


class SoundOut(BaseModel):
    """A synthesised sound of accents."""

    name: str
    title: str
    purpose: str


class EasingOut(BaseModel):
    """A named easing: the two control points of its cubic curve, x1, y1, x2, y2."""

    name: str
    points: list[float]


class CatalogueOut(BaseModel):
    """Everything that a recipe can be made of; ``families`` are those of filters, in their order."""

    format: int
    envelopes: list[str]
    easings: list[EasingOut]
    families: list[str]
    filters: list[FilterOut]
    mixes: list[MixOut]
    speed: ParameterOut
    sounds: list[SoundOut]
    wipe_shapes: list[ShapeOut]


@router.get("")
def get_catalogue() -> CatalogueOut:
    """Return the filters and mixes with their parameters."""
    return CatalogueOut.model_validate(catalogue())
