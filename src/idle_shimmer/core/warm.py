"""Runs every kernel once, so that the compiled code is on disk before the first frame."""

import numpy as np

from idle_shimmer.core.picture import Picture
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.render import render_frame
from idle_shimmer.core.timing import Window

_RECIPE = {
    "shutter": 90,
    "mix": {"kind": "dissolve", "light": "linear"},
    "passes": [
        {"kind": "gaussian_blur", "radius": 0.2},
        {"kind": "roll", "x": 0.3, "edge": "tile"},
        {"kind": "gaussian_blur", "radius": 0.01},
        {"kind": "transform", "turns": 0.1, "edge": "black"},
        {"kind": "directional_blur", "length": 0.5, "angle": 20},
    ],
}


def warm_up() -> None:
    """Compile what rendering needs; quick where it is compiled already."""
    codes = np.zeros((96, 128, 3), np.uint8)
    picture = Picture(codes, "codes")
    for light in ("linear", "display", "linear", "codes"):
        picture = picture.to(light)
    render_frame(recipe_from_json(_RECIPE), Window(4, 4), 0, codes, codes)
