"""What every pass is: its fields, the facts about its parameters, and its registration.

A pass is one file in this package: a subclass of ``PicturePass`` or ``GeometryPass`` whose fields
are annotated with facts (rest, range, unit, label). The catalogue, the validation, the resting
test and the interface's controls all come from those annotations.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

from idle_shimmer.core.envelope import NumberEnvelope, PointEnvelope, stated_values, value_at
from idle_shimmer.core.geometry.edges import Edge
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.picture import Pixels

Side = Literal["outgoing", "incoming", "across"]
Unit = Literal["height", "width", "frames", "deg", "turns", "ratio", "stops", "Hz", "none"]
Control = Literal["amount", "angle", "whole", "factor", "point", "choice", "colour", "seed"]


@dataclass(frozen=True)
class Fact:
    """What the catalogue tells about one parameter.

    ``rest`` is the value at which the parameter does nothing, or None where it only colours what
    another one does. ``low`` and ``high`` bound every stated value, in ``unit``; values between
    stated ones are clamped to them. ``usual`` is where a new pass of the interface starts, the
    peak of its swell or the amount of its travel.
    """

    label: str
    control: Control
    unit: Unit = "none"
    rest: float | None = None
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    usual: float | None = None
    moves: Literal["swell", "travel", "hold"] = "hold"

    def check(self, envelope: Any) -> Any:
        """``envelope`` unchanged; ValueError where a stated value is out of range."""
        for path, value in stated_values(envelope):
            for number in value if isinstance(value, tuple) else (value,):
                if not self.low <= number <= self.high:
                    where = f"{path} " if path else ""
                    raise ValueError(
                        f"{where}must be {self.low:g} to {self.high:g}, not {number:g}"
                    )
        return envelope

    def clamp(self, value: Any) -> Any:
        """``value`` brought inside the range."""
        if isinstance(value, tuple):
            return tuple(min(max(number, self.low), self.high) for number in value)
        return min(max(value, self.low), self.high)


def number(fact: Fact) -> Any:
    """The annotation of an animated number with ``fact``."""
    return Annotated[NumberEnvelope, AfterValidator(fact.check), fact]


def point(fact: Fact) -> Any:
    """The annotation of an animated [x, y] pair with ``fact``."""
    return Annotated[PointEnvelope, AfterValidator(fact.check), fact]


def choice(label: str, *values: str) -> Any:
    """The annotation of a choice among ``values``."""
    return Annotated[Literal[values], Fact(label=label, control="choice")]


@dataclass(frozen=True, slots=True)
class FrameContext:
    """Where and when a pass works: frame number from the cut, envelope time, frame size."""

    offset: int
    u: float
    width: int
    height: int


Values = Mapping[str, Any]
OPACITY = Fact("Opacity", "factor", "ratio", low=0, high=1, usual=1)
_REGISTRY: dict[str, type["Pass"]] = {}


class Pass(BaseModel):
    """One filter in the stack. Subclasses with a ``kind`` register themselves."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    title: ClassVar[str]
    family: ClassVar[Literal["blur", "geometry", "light", "glitch"]]
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
    def facts(cls) -> dict[str, Fact]:
        """The facts of every parameter, by field name, in the order of the fields."""
        return {name: fact for name, field in cls.model_fields.items() for fact in _facts(field)}

    def values_at(self, u: float) -> dict[str, Any]:
        """Every parameter's value at envelope time ``u``, inside its range."""
        values: dict[str, Any] = {}
        for name, fact in self.facts().items():
            value = value_at(getattr(self, name), u, fact.rest)
            values[name] = fact.clamp(value) if not isinstance(value, str) else value
        return values

    def is_at_rest(self, values: Values) -> bool:
        """Whether the pass does nothing at ``values``."""
        if values["opacity"] == 0:
            return True
        resting = {n: f.rest for n, f in self.facts().items() if f.rest is not None}
        return all(values[name] == rest for name, rest in resting.items())


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


def registered() -> dict[str, type[Pass]]:
    """Every pass by its kind."""
    return dict(_REGISTRY)
