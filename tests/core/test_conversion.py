"""Recipes of format 1: converted by small steps, with the same values and the same frames.

``format-1-values.json`` was written by the last version that read format 1 alone: the value of every
animated parameter and the progress of the mix, at each frame of two windows, of all its built-in
recipes, which lie beside it.
"""

import copy
import json
from fractions import Fraction
from typing import Any

import cv2
import numpy as np
import pytest

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.conversion import to_newest_format
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.recipe import Recipe, SuggestedWindow, recipe_from_json, recipe_to_json
from tests.conftest import ROOT
from tests.support.frames import render_frame

DATA = ROOT / "tests" / "data"
RECIPES = {
    file.stem: json.loads(file.read_text(encoding="utf-8"))
    for file in sorted((DATA / "recipes-format-1").glob("*.json"))
}
VALUES = json.loads((DATA / "format-1-values.json").read_text(encoding="utf-8"))
WINDOWS = (Window(5, 5), Window(4, 7))
SCALES = ("scale", "stretch_x", "stretch_y")


def renamed(document: Any) -> Any:
    """Format 2 of a format 1 document by search and replace of words alone."""
    text = json.dumps(document)
    for old, new in (
        ('"passes":', '"filters":'),
        ('"shape":', '"easing":'),
        ('"ease":', '"easing":'),
        ('"kind": "keys", "keys":', '"kind": "keyframes", "keyframes":'),
        ('"pass":', '"filter":'),
        ('"midpoint":', '"radius":'),
        ('"roundness":', '"aspect":'),
    ):
        text = text.replace(old, new)
    return {"format": 2, **json.loads(text)}


def interpolating_linearly(document: dict[str, Any]) -> dict[str, Any]:
    """Every animated scale with linear interpolation, whether it differs or not."""
    changed = copy.deepcopy(document)
    for owner in changed.get("filters", []):
        for name in SCALES:
            if isinstance(owner.get(name), dict):
                owner[name]["interpolation"] = "linear"
    return changed


def values_of(recipe: Recipe, window: Window) -> dict[str, list[Any]]:
    timeline = Timeline(recipe, window, Fraction(25), (320, 180))
    found: dict[str, list[Any]] = {
        f"{owner.id}.{name}": [timeline.values(owner, k + 0.5)[name] for k in window.offsets]
        for owner in recipe.filters
        for name in owner.parameters()
    }
    return {**found, "mix": [recipe.mix.progress(window.u_of_frame(k)) for k in window.offsets]}


@pytest.mark.parametrize("slug", RECIPES)
@pytest.mark.parametrize("window", WINDOWS, ids=["5-5", "4-7"])
def test_a_converted_recipe_has_the_values_that_format_1_had(slug: str, window: Window) -> None:
    found = values_of(recipe_from_json(RECIPES[slug]), window)
    for name, expected in VALUES[slug][f"{window.before}|{window.after}"].items():
        values = [list(each) if isinstance(each, tuple) else each for each in found[name]]
        assert values == expected, name


@pytest.fixture(scope="module")
def small(codes_pair: tuple) -> list[np.ndarray]:
    return [cv2.resize(each, (160, 90), interpolation=cv2.INTER_AREA) for each in codes_pair]


@pytest.mark.parametrize("slug", RECIPES)
def test_a_recipe_of_format_1_and_its_conversion_give_the_same_frames(
    slug: str, small: list
) -> None:
    """Bit for bit: converted, and with words replaced and every scale linear as it was."""
    converted = recipe_from_json(to_newest_format(RECIPES[slug]))
    as_before = recipe_from_json(interpolating_linearly(renamed(RECIPES[slug])))
    for window in WINDOWS:
        for offset in window.offsets:
            one, other = (
                render_frame(each, window, offset, *small) for each in (converted, as_before)
            )
            assert np.array_equal(one, other), (window, offset)


def scaled(envelope: dict[str, Any], name: str = "scale") -> dict[str, Any]:
    document = {"passes": [{"id": "t", "kind": "transform", name: envelope}]}
    return to_newest_format(document)["filters"][0][name]


@pytest.mark.parametrize(
    ("envelope", "is_added"),
    [
        ({"kind": "swell", "peak": 2.0}, True),
        ({"kind": "swell", "peak": 1.0}, False),
        ({"kind": "swell", "peak": 2.0, "rise": "steps(1,end)", "fall": "steps(1)"}, False),
        ({"kind": "swell", "peak": 2.0, "rise": "steps(2,end)", "fall": "steps(1)"}, True),
        ({"kind": "travel", "amount": 0.5}, True),
        ({"kind": "travel", "amount": 0}, False),
        ({"kind": "keys", "keys": [{"at": -1, "value": 1}, {"at": 1, "value": 3}]}, True),
        ({"kind": "keys", "keys": [{"at": -1, "value": 2}, {"at": 1, "value": 2}]}, False),
        ({"kind": "keys", "keys": [{"at": 0, "value": 2}]}, False),
    ],
)
def test_linear_is_added_where_a_scale_would_look_different(
    envelope: dict[str, Any], is_added: bool
) -> None:
    assert (scaled(envelope).get("interpolation") == "linear") is is_added
    assert "interpolation" not in scaled(envelope, "shift_x")
    before = json.dumps(envelope)
    scaled(envelope)
    assert json.dumps(envelope) == before


def test_scales_interpolate_by_ratio() -> None:
    """Half way from 1 to 4 is 2: a·(b/a)^p."""
    travel = {"kind": "travel", "from": 1.0, "amount": 3.0, "easing": "linear"}
    owner = {"id": "t", "kind": "transform", "scale": travel, "shift_x": {**travel, "from": 0.0}}
    recipe = recipe_from_json({"format": 2, "filters": [owner]})
    values = recipe.filters[0].values_at(0.0, lambda _: None)  # type: ignore[arg-type,return-value]
    assert values["scale"] == pytest.approx(2.0)
    assert values["shift_x"] == pytest.approx(1.5)
    linear = {**owner, "scale": {**travel, "interpolation": "linear"}}
    recipe = recipe_from_json({"format": 2, "filters": [linear]})
    assert recipe.filters[0].values_at(0.0, lambda _: None)["scale"] == pytest.approx(2.5)  # type: ignore[arg-type,return-value]
    ratio = {
        "kind": "gaussian_blur",
        "radius": {"kind": "swell", "peak": 1, "interpolation": "ratio"},
    }
    with pytest.raises(RecipeError, match="radius can only be interpolated linearly"):
        recipe_from_json({"format": 2, "filters": [ratio]})


@pytest.mark.parametrize(
    ("rate", "expected"),
    [
        ("25", (5, 3)),
        ("50", (10, 6)),
        ("60", (12, 7)),
        ("24", (5, 3)),
        ("2", (1, 1)),
        ("30", (6, 4)),
    ],
)
def test_a_suggested_window_with_a_rate_is_a_duration(rate: str, expected: tuple[int, int]) -> None:
    """Rounded half up, at least 1: 3 frames at 25 are 3.6 at 30."""
    window = SuggestedWindow(before=5, after=3, rate="25").at_rate(Fraction(rate))
    assert (window.before, window.after) == expected
    counted = SuggestedWindow(before=5, after=3).at_rate(Fraction(rate))
    assert (counted.before, counted.after) == (5, 3)


@pytest.mark.parametrize("slug", RECIPES)
def test_what_is_written_is_format_2_and_reads_back(slug: str) -> None:
    written = recipe_to_json(recipe_from_json(RECIPES[slug]))
    assert written["format"] == 2
    assert not {"passes", "version"} & set(written)
    assert recipe_to_json(recipe_from_json(json.dumps(written))) == written


@pytest.mark.parametrize(
    "document",
    [
        {"passes": 3},
        {"passes": [3, None, {"kind": 5}, {"kind": ["transform"]}]},
        {"passes": [{"kind": "transform", "scale": {"kind": "keys", "keys": 7}}]},
        {"passes": [{"kind": "transform", "scale": {"kind": "keys", "keys": [1, None]}}]},
        {"mix": 4, "retime": [], "window": "wide"},
        {"retime": {"outgoing": 3}},
    ],
)
def test_what_is_no_recipe_is_refused_and_not_lost_in_conversion(document: Any) -> None:
    with pytest.raises(RecipeError):
        recipe_from_json(document)
