"""The curves of the lanes beside the timeline that every frame is made from."""

from fractions import Fraction

import numpy as np
import pytest

from idle_shimmer.core.animation.curves import curves_of
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json

WINDOW = Window(4, 7)
RECIPE = recipe_from_json(
    {
        "format": 2,
        "mix": {"kind": "dissolve"},
        "filters": [
            {
                "id": "roll",
                "kind": "roll",
                "y": {"kind": "travel", "amount": -2, "easing": {"steepness": 0.7}},
            },
            {
                "id": "streak",
                "kind": "directional_blur",
                "length": {"kind": "follow", "filter": "roll", "shutter": 180},
            },
            {
                "id": "lens",
                "kind": "lens",
                "k1": {"kind": "swell", "peak": 0.3},
                "centre": [0.25, 0.75],
            },
        ],
    }
)


def test_every_number_is_drawn_as_the_frames_have_it() -> None:
    timeline = Timeline(RECIPE, WINDOW, Fraction(25), (640, 360))
    curves = {(each.filter_id, each.parameter): each for each in curves_of(timeline)}
    assert ("mix", "progress") in curves
    drawn = 0
    for filter_ in RECIPE.filters:
        at_frames = [timeline.values(filter_, offset + 0.5) for offset in WINDOW.offsets]
        for name in at_frames[0]:
            values = [each[name] for each in at_frames]
            if isinstance(values[0], str | bool):
                assert (filter_.id, name) not in curves
                continue
            parts = (
                {f"{name}.x": 0, f"{name}.y": 1} if isinstance(values[0], tuple) else {name: None}
            )
            for part, place in parts.items():
                expected = values if place is None else [each[place] for each in values]
                assert curves[filter_.id, part].values == pytest.approx(expected, abs=1e-6)
                drawn += 1
    assert drawn == len(curves) - 1


def test_every_curve_reaches_both_ends_and_both_sides_of_the_cut() -> None:
    timeline = Timeline(RECIPE, WINDOW, Fraction(25), (640, 360))
    for each in curves_of(timeline):
        assert (each.times[0], each.times[-1]) == (-WINDOW.before, WINDOW.after)
        assert len(each.times) == len(each.line)
        assert {-1e-6, 1e-6} <= set(each.times)
        at_frames = np.interp([k + 0.5 for k in WINDOW.offsets], each.times, each.line)
        assert at_frames == pytest.approx(each.values, abs=0.02)
