"""What every pass is: its fields, the facts about its parameters, and its registration.

A pass is one file in this package: a subclass of ``PicturePass`` or ``GeometryPass`` whose fields
are annotated with facts (rest, range, unit, label). The catalogue, the validation, the resting
test and the interface's controls all come from those annotations.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

from idle_shimmer.core.envelope import (
    Follow,
    NumberEnvelope,
    PointEnvelope,
    is_moving,
    value_at,
)
from idle_shimmer.core.facts import Axis, Fact
from idle_shimmer.core.flips import flipped_envelope
from idle_shimmer.core.geometry.edges import Edge
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.geometry.stages import AffineStage, Stage
from idle_shimmer.core.picture import Picture, Pixels

Side = Literal["outgoing", "incoming", "across"]
MovementOf = Callable[[str], Movement]
Family = Literal["blur", "geometry", "light", "glitch"]


def number(fact: Fact) -> Any:
    """The annotation of an animated number with ``fact``."""
    return Annotated[NumberEnvelope, AfterValidator(fact.check), fact]


def point(fact: Fact) -> Any:
    """The annotation of an animated [x, y] pair with ``fact``."""
    return Annotated[PointEnvelope, AfterValidator(fact.check), fact]


@dataclass(frozen=True, slots=True)
class FrameContext:
    """Where and when a pass works.

    ``offset`` is the frame's number from the cut, ``u`` envelope time, ``seconds`` the time from the
    cut, ``width`` and ``height`` the frame's size in pixels, ``light`` that of the recipe. ``other`` gives the other clip's
    picture at this frame, for passes that say that they look at it.
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

    def in_pixels(self, place: tuple[float, float]) -> tuple[float, float]:
        """A place in 0…1 of the frame, in pixels."""
        return place[0] * self.width, place[1] * self.height


Values = Mapping[str, Any]
OPACITY = Fact("Opacity", "factor", "ratio", low=0, high=1, usual=1)
_REGISTRY: dict[str, type["Pass"]] = {}


class Pass(BaseModel):
    """One filter in the stack. Subclasses with a ``kind`` register themselves."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    title: ClassVar[str]
    family: ClassVar[Family]
    purpose: ClassVar[str]

    id: Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9_-]+$")]
    kind: str
    side: Side = "across"
    enabled: bool = True
    opacity: number(OPACITY) = 1.0  # type: ignore[valid-type]

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        kind = cls.model_fields["kind"].default
        if not isinstance(kind, str):
            return
        if kind in _REGISTRY:
            raise TypeError(f"two passes are called '{kind}': {_REGISTRY[kind]} and {cls}")
        _REGISTRY[kind] = cls

    @classmethod
    @cache
    def facts(cls) -> dict[str, Fact]:
        """The facts of every parameter, by field name, in the order of the fields."""
        return {name: fact for name, field in cls.model_fields.items() for fact in _facts(field)}

    def held_values(self) -> dict[str, Any]:
        """Every parameter's value, inside its range, None for what moves."""
        return {
            name: None if is_moving(envelope := getattr(self, name)) else fact.clamp(envelope)
            for name, fact in self.facts().items()
        }

    def values_at(
        self, u: float, movement_of: MovementOf, held: Mapping[str, Any] | None = None
    ) -> dict[str, Any]:
        """Every parameter's value at envelope time ``u``, inside its range.

        ``movement_of`` answers how far another pass travels at this time, for followers. ``held``
        are the ``held_values``, where they are known already.
        """
        values = dict(self.held_values() if held is None else held)
        for name, fact in self.facts().items():
            if values[name] is not None:
                continue
            envelope = getattr(self, name)
            if isinstance(envelope, Follow):
                value = fact.followed(movement_of(envelope.target), self, envelope.shutter)
            else:
                value = value_at(envelope, u, self._rest_of(name, fact))
            values[name] = fact.clamp(value)
        return values

    def _rest_of(self, name: str, fact: Fact) -> Any:
        """Where a swell rises from: the rest, or the default of what has none."""
        return fact.rest if fact.rest is not None else type(self).model_fields[name].default

    def flipped(self, axis: Axis) -> "Pass":
        """The pass for the picture flipped along ``axis``; random passes keep their seed."""
        changed = {
            name: flipped_envelope(getattr(self, name), fact, axis, self._rest_of(name, fact))
            for name, fact in self.facts().items()
            if fact.flips is not None
        }
        return self.model_copy(update=changed)

    def is_at_rest(self, values: Values) -> bool:
        """Whether the pass does nothing at ``values``."""
        if values["opacity"] == 0:
            return True
        resting = {n: f.rest for n, f in self.facts().items() if f.rest is not None}
        return all(values[name] == rest for name, rest in resting.items())

    def looks_at_other(self) -> bool:
        """Whether it needs the other clip's picture."""
        return False

    def follows(self) -> list[tuple[str, Follow]]:
        """The parameters that follow another pass."""
        named = ((name, getattr(self, name)) for name in self.facts())
        return [(name, each) for name, each in named if isinstance(each, Follow)]


def _facts(field: FieldInfo) -> Iterator[Fact]:
    return (fact for fact in field.metadata if isinstance(fact, Fact))


class PicturePass(Pass):
    """A pass that computes a new picture from its input."""

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """A new picture: float32 (H, W, 3), in the light of the recipe."""
        raise NotImplementedError


class GeometryPass(Pass):
    """A pass that only says where in its input each output point looks.

    Neighbouring ones are composed into one coordinate map and looked up once.
    """

    edge: Annotated[Edge, Fact("Beyond the edge", "choice")] = "mirror"

    def stage(self, values: Values, context: FrameContext) -> Stage:
        """The way from output points to points of the picture that enters this pass."""
        raise NotImplementedError


class MovingPass(GeometryPass):
    """A geometry pass that moves the picture as a whole, so that a blur can follow it."""

    def stage(self, values: Values, context: FrameContext) -> AffineStage:
        """The way from output points to points of the picture that enters this pass."""
        raise NotImplementedError


def registered() -> dict[str, type[Pass]]:
    """Every pass by its kind."""
    return dict(_REGISTRY)
