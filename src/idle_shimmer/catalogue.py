"""The catalogue: what passes and mixes there are, told from their models alone."""

from dataclasses import asdict
from typing import Any, get_args

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from idle_shimmer.core import recipe as _recipe  # noqa: F401  (registers every pass and mix)
from idle_shimmer.core.easing import KEYWORDS
from idle_shimmer.core.envelope import ENVELOPE_KINDS
from idle_shimmer.core.facts import Fact
from idle_shimmer.core.mixes import base as mix_base
from idle_shimmer.core.mixes.mattes.base import Shape, shapes
from idle_shimmer.core.passes import base as pass_base
from idle_shimmer.core.retime import SPEED, Retime


def catalogue() -> dict[str, Any]:
    """Every pass and mix, and the speed of a clip, with parameters: label, unit, range, rest, control and choices."""
    return {
        "envelopes": list(ENVELOPE_KINDS),
        "easings": [{"name": name, "points": points} for name, points in KEYWORDS.items()],
        "passes": [_pass(kind, cls) for kind, cls in sorted(pass_base.registered().items())],
        "mixes": [_mix(kind, cls) for kind, cls in sorted(mix_base.registered().items())],
        "speed": _parameter("speed", SPEED, Retime.model_fields["speed"]),
        "wipe_shapes": [_shape(shape) for shape in shapes().values()],
    }


def _pass(kind: str, cls: type[pass_base.Pass]) -> dict[str, Any]:
    return {
        "kind": kind,
        "title": cls.title,
        "family": cls.family,
        "purpose": cls.purpose,
        "geometry": issubclass(cls, pass_base.GeometryPass),
        "moving": issubclass(cls, pass_base.MovingPass),
        "parameters": _parameters(cls.facts(), cls.model_fields),
    }


def _parameters(facts: dict[str, Fact], fields: dict[str, FieldInfo]) -> list[dict[str, Any]]:
    return [_parameter(name, fact, fields[name]) for name, fact in facts.items()]


def _parameter(name: str, fact: Fact, field: FieldInfo) -> dict[str, Any]:
    default = field.default
    described = {
        "name": field.alias or name,
        "label": fact.label,
        "control": fact.control,
        "unit": fact.unit,
        "default": default.model_dump() if isinstance(default, BaseModel) else default,
    }
    if fact.control == "choice":
        return {**described, "choices": list(fact.choices or get_args(field.annotation))}
    if fact.control in ("switch", "colour", "matte"):
        return described
    return {
        **described,
        "rest": fact.rest,
        "low": fact.low,
        "high": fact.high,
        "step": fact.step,
        "usual": fact.usual,
        "moves": fact.moves,
        "can_follow": fact.follow is not None,
        "unit_when": asdict(fact.unit_when) if fact.unit_when else None,
    }


def _mix(kind: str, cls: type[mix_base.Mix]) -> dict[str, Any]:
    return {
        "kind": kind,
        "title": cls.title,
        "purpose": cls.purpose,
        "spanned": issubclass(cls, mix_base.SpannedMix),
        "parameters": _parameters(cls.facts(), cls.model_fields),
    }


def _shape(shape: Shape) -> dict[str, Any]:
    return {"type": shape.type, "subtype": shape.subtype, "code": shape.code}
