"""What every filter is: its fields, its parameters, what it declares of itself, its registration.

A filter is one file in this package: a subclass of ``PictureFilter``, ``GeometryFilter`` or
``MovingFilter`` whose fields are annotated with a ``Parameter``. The catalogue, the validation, the
test for rest, the interface's controls, the cut checks, following, flipping and the contact sheets
follow from those annotations and from what the class declares; none of them knows a filter by name.
"""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

from idle_shimmer.core.animation.envelope import (
    Follow,
    NumberEnvelope,
    PointEnvelope,
    is_animated,
    value_at,
)
from idle_shimmer.core.geometry.edge_modes import Edge
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.geometry.transforms import AffineTransform, CoordinateTransform
from idle_shimmer.core.orientation import Axis, flip_envelope, turn_envelope
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import Picture, Pixels
from idle_shimmer.core.subject.regions import Region

Side = Literal["outgoing", "incoming", "across", "subject"]
MovementOf = Callable[[str], Movement]
Family = Literal["blur", "geometry", "light", "glitch"]


def number(parameter: Parameter) -> Any:
    """Return the annotation of an animated number."""
    return Annotated[NumberEnvelope, AfterValidator(parameter.check), parameter]


def point(parameter: Parameter) -> Any:
    """Return the annotation of an animated [x, y] point."""
    return Annotated[PointEnvelope, AfterValidator(parameter.check), parameter]


@dataclass(frozen=True, slots=True)
class FrameContext:
    """Where and when a filter works.

    ``offset`` is the frame's number from the cut, ``u`` envelope time, ``seconds`` the time from the
    cut, ``width`` and ``height`` the frame's size in pixels, ``light`` the recipe's. ``other`` gives
    the other clip's picture at this frame, for filters that ``looks_at_other``.
    """

    offset: int
    u: float
    seconds: float
    width: int
    height: int
    light: str = "linear"
    other: Callable[[], Picture] | None = None

    @property
    def size(self) -> tuple[int, int]:
        """(width, height) in pixels."""
        return self.width, self.height

    def in_pixels(self, position: tuple[float, float]) -> tuple[float, float]:
        """Return a position in 0…1 of the frame, in pixels."""
        return position[0] * self.width, position[1] * self.height


Values = Mapping[str, Any]
OPACITY = Parameter("Opacity", "factor", "ratio", low=0, high=1, usual=1)
_REGISTRY: dict[str, type["Filter"]] = {}


class Filter(BaseModel):
    """One step in the stack. Subclasses with a ``kind`` register themselves.

    ``direction_parameter`` names the parameter that holds the angle of a blur along one direction.
    ``carries_cover`` is True where it moves or spreads what it gets, so that it does with the
    transparency of a picture what it does with the picture. ``stays_upright`` is True where what it does cannot be turned with the picture.
    ``examples`` are further settings that show what the filter does, by their labels.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    title: ClassVar[str]
    family: ClassVar[Family]
    purpose: ClassVar[str]
    direction_parameter: ClassVar[str | None] = None
    carries_cover: ClassVar[bool] = False
    stays_upright: ClassVar[bool] = False
    examples: ClassVar[Mapping[str, Mapping[str, Any]]] = {}

    id: Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9_-]+$")]
    name: Annotated[str | None, Field(min_length=1, max_length=100)] = None
    kind: str
    side: Side = "across"
    enabled: bool = True
    opacity: number(OPACITY) = 1.0  # type: ignore[valid-type]
    # Where in the picture that enters it the filter acts; everywhere without one.
    region: Region | None = None

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        kind = cls.model_fields["kind"].default
        if not isinstance(kind, str):
            return
        if cls.family in ("blur", "geometry"):
            cls.carries_cover = True
        if kind in _REGISTRY:
            raise TypeError(f"two filters have the kind '{kind}': {_REGISTRY[kind]} and {cls}")
        _REGISTRY[kind] = cls

    @classmethod
    @cache
    def parameters(cls) -> dict[str, Parameter]:
        """Return every parameter by field name, in the order of the fields."""
        return {
            name: parameter
            for name, field in cls.model_fields.items()
            for parameter in _parameters_in(field)
        }

    @property
    def label(self) -> str:
        """What to call this filter in a message: its name, or its title."""
        return self.name or self.title

    def constant_values(self) -> dict[str, Any]:
        """Return every parameter's value, inside its range; None for what is animated."""
        return {
            name: None
            if is_animated(envelope := getattr(self, name))
            else parameter.clamp(envelope)
            for name, parameter in self.parameters().items()
        }

    def values_at(
        self, u: float, movement_of: MovementOf, constant: Mapping[str, Any] | None = None
    ) -> dict[str, Any]:
        """Return every parameter's value at envelope time ``u``, inside its range.

        ``movement_of`` gives the movement of another filter by its id, for followers. ``constant``
        are the ``constant_values``, where they are known already.
        """
        values = dict(self.constant_values() if constant is None else constant)
        for name, parameter in self.parameters().items():
            if values[name] is not None:
                continue
            envelope = getattr(self, name)
            if isinstance(envelope, Follow):
                followed = movement_of(envelope.target)
                value = self._followed(name, followed, envelope.shutter)
            else:
                rest = self.rest_of(name)
                value = value_at(envelope, u, rest, parameter.interpolation)
            values[name] = parameter.clamp(value)
        return values

    def _followed(self, name: str, movement: Movement, shutter_deg: float) -> Any:
        parameter = self.parameters()[name]
        if parameter.control == "point":
            return self.rest_of(name) if movement.centre is None else movement.centre
        return parameter.followed(movement, self, shutter_deg)

    @classmethod
    @cache
    def point_parameter(cls) -> str | None:
        """Return the parameter that holds the point about which the filter works, None without one."""
        return next(
            (name for name, each in cls.parameters().items() if each.control == "point"), None
        )

    def rest_of(self, name: str) -> Any:
        """Return the value that a swell of a parameter rises from: its rest, or its default."""
        rest = self.parameters()[name].rest
        return rest if rest is not None else type(self).model_fields[name].default

    def flipped(self, axis: Axis) -> "Filter":
        """Return the filter for the picture flipped along ``axis``; random filters keep their seed."""
        changed = {
            name: flip_envelope(
                getattr(self, name), parameter.orientation, axis, self.rest_of(name)
            )
            for name, parameter in self.parameters().items()
            if parameter.orientation is not None
        }
        region = None if self.region is None else self.region.flipped(axis)
        return self.model_copy(update={**changed, "region": region})

    def turned(self) -> "Filter":
        """Return the filter for the picture turned by a quarter, counter-clockwise."""
        changed = {
            parameter.turned or name: turn_envelope(
                getattr(self, name), parameter.orientation, self.rest_of(name)
            )
            for name, parameter in self.parameters().items()
            if parameter.orientation is not None or parameter.turned is not None
        }
        region = None if self.region is None else self.region.turned()
        return self.model_copy(update={**changed, "region": region})

    def is_at_rest(self, values: Values) -> bool:
        """Whether the filter does nothing at ``values``."""
        if values["opacity"] == 0:
            return True
        resting = {n: p.rest for n, p in self.parameters().items() if p.rest is not None}
        return all(values[name] == rest for name, rest in resting.items())

    def looks_at_other(self) -> bool:
        """Whether it needs the other clip's picture."""
        return False

    def follows(self) -> list[tuple[str, Follow]]:
        """Return the parameters that follow another filter."""
        named = ((name, getattr(self, name)) for name in self.parameters())
        return [(name, each) for name, each in named if isinstance(each, Follow)]

    def softening(self, values: Values) -> float:
        """Return how long its blur is at ``values``, in frame heights.

        The full length of the box that has the same variance; 0 for what does not blur.
        """
        return 0.0

    def aligned(self, angle_deg: float) -> tuple[str, Any] | None:
        """Return the parameter, and its value, with which a blur lies along a direction; None without one."""
        if self.direction_parameter is None:
            return None
        return self.direction_parameter, round(angle_deg, 1)

    def blur_angle_deg(self, values: Values) -> float | None:
        """Return the one direction in which it blurs at ``values``, None where there is none."""
        return None

    @classmethod
    def zoom_cover(cls, amount: float) -> dict[str, Any] | None:  # noqa: ARG003  (for subclasses)
        """Return the fields of a filter of this kind that hides an enlargement, None if it cannot.

        ``amount`` is the spread of scales at the cut.
        """
        return None


def _parameters_in(field: FieldInfo) -> Iterator[Parameter]:
    return (each for each in field.metadata if isinstance(each, Parameter))


class PictureFilter(Filter):
    """A filter that computes a new picture from its input."""

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return a new picture: float32 (H, W, 3), in the light of the recipe."""
        raise NotImplementedError


class GeometryFilter(Filter):
    """A filter that only says where in its input each output point looks.

    Neighbouring ones are composed into one coordinate map and sampled once.
    """

    edge: Annotated[Edge, Parameter("Edges", "choice")] = "mirror"

    @property
    def can_uncover(self) -> bool:
        """Whether parts of the frame may show no picture."""
        return self.edge == "black"

    def stage(self, values: Values, context: FrameContext) -> CoordinateTransform:
        """Return the map from output points to points of the picture that enters this filter."""
        raise NotImplementedError

    def enlargement(self, values: Values, context: FrameContext) -> float:
        """Return how much larger than its input the picture is shown, as a factor of lengths."""
        return 1.0


class MovingFilter(GeometryFilter):
    """A geometry filter that moves the picture as a whole, so that a blur can follow it.

    ``directed`` is False where the movement is random, so that no blur is expected along it.
    """

    directed: ClassVar[bool] = True

    def stage(self, values: Values, context: FrameContext) -> AffineTransform:
        """Return the map from output points to points of the picture that enters this filter."""
        raise NotImplementedError

    def enlargement(self, values: Values, context: FrameContext) -> float:
        """Return the square root of the factor by which its map enlarges areas."""
        (a, b, _), (c, d, _) = self.stage(values, context).matrix
        return 1 / math.sqrt(abs(a * d - b * c))


def registered() -> dict[str, type[Filter]]:
    """Return every filter by its kind."""
    return dict(_REGISTRY)
