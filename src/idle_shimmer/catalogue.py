"""The catalogue: what passes and mixes there are, told from their models alone."""

from typing import Any, get_args

from pydantic.fields import FieldInfo

from idle_shimmer.core import recipe as _recipe  # noqa: F401  (registers every pass and mix)
from idle_shimmer.core.easing import KEYWORDS
from idle_shimmer.core.envelope import ENVELOPE_KINDS
from idle_shimmer.core.mixes import base as mix_base
from idle_shimmer.core.passes import base as pass_base


def catalogue() -> dict[str, Any]:
    """Every pass and mix with its parameters: label, unit, range, rest, control and choices."""
    return {
        "envelopes": list(ENVELOPE_KINDS),
        "easings": [{"name": name, "points": points} for name, points in KEYWORDS.items()],
        "passes": [_pass(kind, cls) for kind, cls in sorted(pass_base.registered().items())],
        "mixes": [_mix(kind, cls) for kind, cls in sorted(mix_base.registered().items())],
    }


def _pass(kind: str, cls: type[pass_base.Pass]) -> dict[str, Any]:
    parameters = [
        _parameter(name, fact, cls.model_fields[name]) for name, fact in cls.facts().items()
    ]
    return {
        "kind": kind,
        "title": cls.title,
        "family": cls.family,
        "purpose": cls.purpose,
        "geometry": issubclass(cls, pass_base.GeometryPass),
        "parameters": parameters,
    }


def _parameter(name: str, fact: pass_base.Fact, field: FieldInfo) -> dict[str, Any]:
    described = {
        "name": name,
        "label": fact.label,
        "control": fact.control,
        "unit": fact.unit,
        "default": field.default,
    }
    if fact.control == "choice":
        return {**described, "choices": list(get_args(field.annotation))}
    return {
        **described,
        "rest": fact.rest,
        "low": fact.low,
        "high": fact.high,
        "step": fact.step,
        "usual": fact.usual,
        "moves": fact.moves,
    }


def _mix(kind: str, cls: type[mix_base.Mix]) -> dict[str, Any]:
    return {
        "kind": kind,
        "title": cls.title,
        "purpose": cls.purpose,
        "spanned": issubclass(cls, mix_base.SpannedMix),
    }
