"""Older recipe formats, converted step by step into the newest one.

Each step is a pure function from the JSON object of one format to that of the next. It only changes
what differs between the two; whatever else a document holds is left for the validation to judge. A
step is never edited once a format was released: stored recipes stay readable for ever.

| format | differences from the one before |
| --- | --- |
| 1 | ``version: 1`` or nothing instead of ``format`` |
| 2 | ``passes`` are ``filters``; ``shape`` and ``ease`` are ``easing``; envelopes of kind ``keys`` are ``keyframes``; ``follow`` names a ``filter``; vignette ``midpoint`` and ``roundness`` are ``radius`` and ``aspect``; scales interpolate by ratio unless ``interpolation`` says linear |
"""

import itertools
import re
from collections.abc import Callable
from typing import Any

from idle_shimmer.core.errors import RecipeError

NEWEST_FORMAT = 2
Document = dict[str, Any]
_TOO_NEW = (
    "this recipe has format {found}, and this version reads formats up to {newest}: update Idle"
    " Shimmer"
)

_ENVELOPES = ("swell", "travel", "keys", "follow")
_SCALES = {"transform": ("scale", "stretch_x", "stretch_y")}
_RENAMED_PARAMETERS = {"vignette": {"midpoint": "radius", "roundness": "aspect"}}
_SCALE_REST = 1.0
# One step jumps from the first value to the last: nothing is interpolated.
_ONE_STEP = re.compile(r"\s*steps\(\s*1\s*(,|\))", re.IGNORECASE)


def format_of(document: Document) -> int:
    """Return the format of a recipe; what names none has format 1.

    Raises RecipeError where it names one that is no format.
    """
    found = document.get("format", 1)
    if isinstance(found, bool) or not isinstance(found, int) or found < 1:
        raise RecipeError(
            [("format", f"must be a number from 1 to {NEWEST_FORMAT}, not {found!r}")]
        )
    if found > NEWEST_FORMAT:
        raise RecipeError([("format", _TOO_NEW.format(found=found, newest=NEWEST_FORMAT))])
    return found


def to_newest_format(document: Document) -> Document:
    """Return the recipe in the newest format; ``document`` itself is not changed."""
    for step in range(format_of(document), NEWEST_FORMAT):
        document = _STEPS[step](document)
    return document


def _from_1_to_2(document: Document) -> Document:
    version = document.get("version", 1)
    if version != 1:
        raise RecipeError(
            [("version", f"{version!r} is not a version of format 1: use 1, or add a format")]
        )
    converted = {
        "format": 2,
        **{name: value for name, value in document.items() if name not in ("version", "format")},
    }
    if "passes" in converted:
        converted = _renamed(converted, {"passes": "filters"})
        if isinstance(converted["filters"], list):
            converted["filters"] = [_filter_2(each) for each in converted["filters"]]
    if isinstance(converted.get("mix"), dict):
        converted["mix"] = _renamed(converted["mix"], {"shape": "easing"})
    if isinstance(converted.get("retime"), dict):
        converted["retime"] = {
            side: _with_envelopes_2(retime) for side, retime in converted["retime"].items()
        }
    return converted


def _filter_2(given: Any) -> Any:
    if not isinstance(given, dict):
        return given
    kind = given.get("kind")
    converted = _with_envelopes_2(given)
    for name in _SCALES.get(kind, ()) if isinstance(kind, str) else ():
        if _needs_linear(converted.get(name)):
            converted[name] = {**converted[name], "interpolation": "linear"}
    return _renamed(converted, _RENAMED_PARAMETERS.get(str(kind), {}))


def _with_envelopes_2(owner: Any) -> Any:
    """Return a filter, or the speed ramp of a side, with its envelopes converted."""
    if not isinstance(owner, dict):
        return owner
    return {name: _envelope_2(value) for name, value in owner.items()}


def _envelope_2(value: Any) -> Any:
    if not isinstance(value, dict) or value.get("kind") not in _ENVELOPES:
        return value
    if value["kind"] == "travel":
        return _renamed(value, {"shape": "easing"})
    if value["kind"] == "follow":
        return _renamed(value, {"pass": "filter"})
    if value["kind"] == "keys":
        converted = _renamed({**value, "kind": "keyframes"}, {"keys": "keyframes"})
        if isinstance(converted.get("keyframes"), list):
            converted["keyframes"] = [
                _renamed(each, {"ease": "easing"}) if isinstance(each, dict) else each
                for each in converted["keyframes"]
            ]
        return converted
    return value


def _needs_linear(envelope: Any) -> bool:
    """Whether a scale would change between its stated values if it were interpolated by ratio."""
    if not isinstance(envelope, dict):
        return False
    match envelope.get("kind"):
        case "swell":
            curves = (envelope.get("rise"), envelope.get("fall"))
            return envelope.get("peak") != _SCALE_REST and not all(map(_is_one_step, curves))
        case "travel":
            return envelope.get("amount") != 0 and not _is_one_step(envelope.get("easing"))
        case "keyframes" if isinstance(envelope.get("keyframes"), list):
            return any(
                one.get("value") != other.get("value") and not _is_one_step(one.get("easing"))
                for one, other in itertools.pairwise(envelope["keyframes"])
                if isinstance(one, dict) and isinstance(other, dict)
            )
    return False


def _is_one_step(easing: Any) -> bool:
    return isinstance(easing, str) and _ONE_STEP.match(easing) is not None


def _renamed(document: Document, names: dict[str, str]) -> Document:
    """Return ``document`` with fields renamed, in their places."""
    return {names.get(name, name): value for name, value in document.items()}


_STEPS: dict[int, Callable[[Document], Document]] = {1: _from_1_to_2}
