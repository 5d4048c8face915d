"""Runs every kernel once, so that the compiled code is on disk before the first frame."""

from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import registered
from idle_shimmer.core.frame.frame_plan import FramePlan
from idle_shimmer.core.frame.render import Sources, frame_coverage, render_frame
from idle_shimmer.core.mixes import base as mixes
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.recipe import recipe_from_json

# What filters at their usual strength do not reach.
_COMBINED = {
    "format": 2,
    "shutter": 90,
    "mix": {"kind": "dissolve", "light": "linear"},
    "filters": [
        {"kind": "gaussian_blur", "radius": 0.2},
        {"kind": "roll", "x": 0.3, "edge": "tile"},
        {"kind": "radial_blur", "style": "spin", "amount": 30},
        {"kind": "transform", "turns": 0.1, "scale": 0.3, "edge": "black"},
        {"kind": "directional_blur", "length": 0.5, "angle": 20},
    ],
}


def usual_filter(kind: str) -> dict[str, object]:
    """Return the filter at the constant strength that the catalogue calls usual, as JSON."""
    return {"kind": kind, "id": "it", **usual_values(registered()[kind].parameters())}


def usual_values(parameters: dict[str, Parameter]) -> dict[str, float]:
    """Return usual values of the parameters that have a rest; travels end between whole units."""
    return {
        name: parameter.usual * (0.37 if parameter.moves == "travel" else 1)
        for name, parameter in parameters.items()
        if parameter.usual is not None and parameter.rest is not None
    }


def _mixes() -> Iterator[dict[str, object]]:
    """Yield every mix, with and without filters before it and after it: all its encodings."""
    for kind in mixes.registered():
        for sides in ((), ("outgoing",), ("across",), ("outgoing", "across")):
            filters = [
                {"kind": "grade", "id": side, "side": side, "exposure": 1.5} for side in sides
            ]
            yield {"format": 2, "mix": {"kind": kind}, "filters": filters}


def warm_up() -> None:
    """Compile what rendering needs; quick where it is compiled already."""
    codes = np.full((96, 128, 3), 250, np.uint8)
    picture = Picture(codes, "codes")
    for encoding in ("linear", "display", "linear", "codes"):
        picture = picture.to(encoding)
    window = Window(4, 4)
    documents: list[dict[str, object]] = [_COMBINED]
    documents += [{"format": 2, "filters": [usual_filter(kind)]} for kind in registered()]
    documents += list(_mixes())
    for document in documents:
        recipe = recipe_from_json(document)
        render_frame(FramePlan(recipe, window, 0), Sources(codes, codes))
        frame_coverage(Timeline(recipe, window, Fraction(25), (128, 96)), 0)
