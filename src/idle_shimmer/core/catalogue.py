"""The catalogue of filters and mixes, described by their classes."""

from dataclasses import asdict
from typing import Any, get_args

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from idle_shimmer.core import recipe as _recipe  # noqa: F401  (registers every filter and mix)
from idle_shimmer.core.animation.easing import KEYWORDS
from idle_shimmer.core.animation.envelope import ENVELOPE_KINDS
from idle_shimmer.core.animation.retime import SPEED, Retime
from idle_shimmer.core.filters import base as filter_base
from idle_shimmer.core.mixes import base as mix_base
from idle_shimmer.core.mixes.wipe_shapes.base import Shape, shapes
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.sound.sounds import base as sounds


def catalogue() -> dict[str, Any]:
    """Return every filter and mix, the speed of a clip, the sounds of accents and the wipe shapes.

    Parameters carry label, unit, range, rest, control and choices.
    """
    filters, mixes = filter_base.registered(), mix_base.registered()
    return {
        "format": 2,
        "envelopes": list(ENVELOPE_KINDS),
        "families": list(get_args(filter_base.Family)),
        "easings": [{"name": name, "points": points} for name, points in KEYWORDS.items()],
        "filters": [_filter(kind, cls) for kind, cls in sorted(filters.items())],
        "mixes": [_mix(kind, cls) for kind, cls in sorted(mixes.items())],
        "speed": _parameter("speed", SPEED, Retime.model_fields["speed"]),
        "sounds": [
            {"name": name, "title": sound.title, "purpose": sound.purpose}
            for name, sound in sounds.registered().items()
        ],
        "wipe_shapes": [_shape(shape) for shape in shapes().values()],
    }


def _filter(kind: str, cls: type[filter_base.Filter]) -> dict[str, Any]:
    return {
        "kind": kind,
        "title": cls.title,
        "family": cls.family,
        "purpose": cls.purpose,
        "geometry": issubclass(cls, filter_base.GeometryFilter),
        "moving": issubclass(cls, filter_base.MovingFilter),
        "direction_parameter": cls.direction_parameter,
        "parameters": _parameters(cls.parameters(), cls.model_fields),
    }


def _parameters(
    parameters: dict[str, Parameter], fields: dict[str, FieldInfo]
) -> list[dict[str, Any]]:
    return [_parameter(name, parameter, fields[name]) for name, parameter in parameters.items()]


def _parameter(name: str, parameter: Parameter, field: FieldInfo) -> dict[str, Any]:
    default = field.default
    described = {
        "name": field.alias or name,
        "label": parameter.label,
        "control": parameter.control,
        "unit": parameter.unit,
        "default": default.model_dump() if isinstance(default, BaseModel) else default,
    }
    if parameter.control == "choice":
        return {**described, "choices": list(parameter.choices or get_args(field.annotation))}
    if parameter.control in ("switch", "colour", "matte"):
        return described
    return {
        **described,
        "rest": parameter.rest,
        "low": parameter.low,
        "high": parameter.high,
        "step": parameter.step,
        "usual": parameter.usual,
        "moves": parameter.moves,
        "can_follow": parameter.follow is not None,
        "periodic": parameter.period is not None,
        "orientation": parameter.orientation,
        "interpolation": parameter.interpolation,
        "unit_when": asdict(parameter.unit_when) if parameter.unit_when else None,
    }


def _mix(kind: str, cls: type[mix_base.Mix]) -> dict[str, Any]:
    return {
        "kind": kind,
        "title": cls.title,
        "purpose": cls.purpose,
        "spanned": issubclass(cls, mix_base.SpannedMix),
        "moving": cls(kind=kind).displacement(0.0) is not None,
        "parameters": _parameters(cls.parameters(), cls.model_fields),
    }


def _shape(shape: Shape) -> dict[str, Any]:
    return {"type": shape.type, "subtype": shape.subtype, "code": shape.code}
