"""Runs every kernel once, so that the compiled code is on disk before the first frame."""

from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.mixes import base as mixes
from idle_shimmer.core.passes.base import registered
from idle_shimmer.core.picture import Picture
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.render import frame_coverage, render_frame
from idle_shimmer.core.timeline import Timeline
from idle_shimmer.core.timing import Window

_MIXED = {
    "shutter": 90,
    "mix": {"kind": "dissolve", "light": "linear"},
    "passes": [
        {"kind": "gaussian_blur", "radius": 0.2},
        {"kind": "roll", "x": 0.3, "edge": "tile"},
        {"kind": "radial_blur", "style": "spin", "amount": 30},
        {"kind": "transform", "turns": 0.1, "scale": 0.3, "edge": "black"},
        {"kind": "directional_blur", "length": 0.5, "angle": 20},
    ],
}


def usual_pass(kind: str) -> dict[str, object]:
    """The pass at the strength that the catalogue calls usual, held, as JSON."""
    return {"kind": kind, "id": "it", **usual_values(registered()[kind].facts())}


def usual_values(facts: dict[str, Fact]) -> dict[str, float]:
    """The usual values of the parameters that have a rest; travels end between whole units."""
    return {
        name: fact.usual * (0.37 if fact.moves == "travel" else 1)
        for name, fact in facts.items()
        if fact.usual is not None and fact.rest is not None
    }


def _mixed() -> Iterator[dict[str, object]]:
    """Every mix, with and without passes ahead of it and after it: codes or light, in and out."""
    for kind in mixes.registered():
        for sides in ((), ("outgoing",), ("across",), ("outgoing", "across")):
            passes = [
                {"kind": "grade", "id": side, "side": side, "exposure": 1.5} for side in sides
            ]
            yield {"mix": {"kind": kind}, "passes": passes}


def warm_up() -> None:
    """Compile what rendering needs; quick where it is compiled already."""
    codes = np.full((96, 128, 3), 250, np.uint8)
    picture = Picture(codes, "codes")
    for light in ("linear", "display", "linear", "codes"):
        picture = picture.to(light)
    window = Window(4, 4)
    documents: list[dict[str, object]] = [_MIXED]
    documents += [{"passes": [usual_pass(kind)]} for kind in registered()]
    documents += list(_mixed())
    for document in documents:
        recipe = recipe_from_json(document)
        render_frame(recipe, window, 0, codes, codes)
        frame_coverage(Timeline(recipe, window, Fraction(25), (128, 96)), 0)
