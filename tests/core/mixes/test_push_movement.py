"""A push is a movement: blurs follow it, and the checks judge it. Smears take the point they follow."""

import math
from fractions import Fraction
from typing import Any

import pytest

from idle_shimmer.core import checks  # noqa: F401
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import CheckContext, Finding, apply_fix, check_all
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.recipe import Recipe, recipe_from_json

SIZE = (1280, 720)


def timeline(recipe: Recipe, window: Window | None = None) -> Timeline:
    return Timeline(recipe, window or Window(10, 10), Fraction(25), SIZE)


def finding(recipe: Recipe, check: str, window: Window | None = None) -> Finding:
    found = check_all(CheckContext(timeline(recipe, window)))
    return next(each for each in found if each.id == check)


def pushed(**blur: Any) -> Recipe:
    return recipe_from_json(
        {
            "mix": {"kind": "push", "from": "right"},
            "filters": [{"id": "b", "kind": "directional_blur", **blur}],
        }
    )


def test_a_blur_follows_a_push_in_length_and_angle() -> None:
    recipe = pushed(length={"kind": "follow", "filter": "mix", "shutter": 360})
    values = timeline(recipe).values(recipe.filters[0], 0.5)
    # At constant speed 20 frames cross one frame width, 16/9 of the height.
    assert values["length"] == pytest.approx(16 / 9 / 20)
    assert values["angle"] % 180 == pytest.approx(0)


def test_only_a_mix_that_moves_can_be_followed() -> None:
    with pytest.raises(RecipeError, match="follows 'mix', which does not move the picture"):
        recipe_from_json(
            {
                "mix": {"kind": "dissolve"},
                "filters": [
                    {"kind": "directional_blur", "length": {"kind": "follow", "filter": "mix"}}
                ],
            }
        )


def test_an_upright_streak_over_a_sideways_push_is_found_and_mended() -> None:
    recipe = pushed(length={"kind": "swell", "peak": 0.1}, angle=90)
    found = finding(recipe, "direction")
    assert (found.status, found.value) == ("warning", pytest.approx(90))
    assert found.fix is not None
    assert finding(apply_fix(recipe, found.fix), "direction").status == "ok"


def test_a_streak_that_is_not_at_the_pace_of_a_push_is_found_and_mended() -> None:
    swell = {"kind": "swell", "peak": 0.1, "start": -1, "full_from": -0.9, "end": 0}
    recipe = pushed(length={**swell, "full_to": -0.9})
    found = finding(recipe, "pace")
    assert found.status == "warning"
    assert found.fix is not None
    assert found.fix.label == "Follow Push"
    assert finding(apply_fix(recipe, found.fix), "pace").status == "ok"


def test_a_push_whose_easing_does_not_reach_its_end_does_not_land() -> None:
    mix = {"kind": "push", "from": "left", "easing": "linear(0, 0.9)"}
    recipe = recipe_from_json({"mix": mix})
    found = finding(recipe, "landing")
    assert (found.status, found.value) == ("failed", pytest.approx(0.1 * SIZE[0]))
    assert found.fix is not None
    assert finding(apply_fix(recipe, found.fix), "landing").status == "ok"


def test_a_smear_that_follows_takes_the_point_of_what_it_follows() -> None:
    recipe = recipe_from_json(
        {
            "filters": [
                {
                    "id": "z",
                    "kind": "transform",
                    "scale": {"kind": "travel", "from": 1, "amount": 1},
                    "centre": {"kind": "travel", "from": [0.2, 0.5], "amount": [0.6, 0]},
                },
                {"kind": "radial_blur", "amount": {"kind": "follow", "filter": "z"}},
                {"kind": "bulge", "strength": 0.3, "centre": {"kind": "follow", "filter": "z"}},
            ]
        }
    )
    at = timeline(recipe)
    centre = at.values(recipe.filters[0], 0.5)["centre"]
    assert centre[0] > 0.5
    for follower in recipe.filters[1:]:
        assert at.values(follower, 0.5)["centre"] == pytest.approx(centre)


def test_a_point_follows_a_filter_that_has_one_of_its_own() -> None:
    for target, known in (("r", "b"), ("b2", "b")):
        with pytest.raises(RecipeError, match=f"has no point of its own: follow one of {known}"):
            recipe_from_json(
                {
                    "filters": [
                        {"id": "r", "kind": "roll"},
                        {"id": "b", "kind": "bulge"},
                        {
                            "id": "b2",
                            "kind": "bulge",
                            "centre": {"kind": "follow", "filter": target},
                        },
                    ]
                }
            )


def zoom(rise: str, fall: str, **incoming: Any) -> Recipe:
    before = [{"at": -1, "value": 1, "easing": rise}, {"at": 0, "value": 3}]
    after = [{"at": 0, "value": 0.25, "easing": fall}, {"at": 1, "value": 1}]
    sides = [("outgoing", before), ("incoming", after)]
    return recipe_from_json(
        {
            "filters": [
                {
                    "kind": "transform",
                    "side": side,
                    "scale": {"kind": "keyframes", "keyframes": keyframes, **incoming},
                }
                for side, keyframes in sides
            ]
        }
    )


def test_the_speed_of_a_zoom_is_compared_on_both_sides_of_the_cut() -> None:
    # By ratio at constant speed: ln 3 against ln 4 for a half of the window.
    found = finding(zoom("linear", "linear"), "continuity")
    assert (found.status, found.unit) == ("ok", "times")
    assert found.value == pytest.approx(math.log(4) / math.log(3), rel=1e-3)
    # ease-in ends at 1 / (1 - 0.58)... of its mean pace; ease-in at the start stands still.
    recipe = zoom("ease-in", "ease-in")
    found = finding(recipe, "continuity")
    assert found.status == "warning"
    assert found.value > 10
    assert found.fix is not None
    fixed = finding(apply_fix(recipe, found.fix), "continuity")
    assert (fixed.status, fixed.value) == ("ok", pytest.approx(1, abs=0.02))


def test_windows_of_uneven_halves_are_no_fault_of_a_curve() -> None:
    turning = recipe_from_json(
        {"filters": [{"kind": "transform", "turns": {"kind": "travel", "amount": 1}}]}
    )
    assert finding(turning, "continuity", Window(4, 12)).status == "ok"


def test_an_accepted_finding_counts_as_ok_and_keeps_its_reason() -> None:
    document = {
        "filters": [{"kind": "roll", "edge": "tile", "y": {"kind": "travel", "amount": 1.5}}]
    }
    assert finding(recipe_from_json(document), "landing").status == "failed"
    meant = recipe_from_json({**document, "accepted": {"landing": "the strip is meant"}})
    found = finding(meant, "landing")
    assert (found.status, found.accepted) == ("ok", "the strip is meant")
    assert found.as_json()["accepted"] == "the strip is meant"
    assert found.value > 0
    with pytest.raises(RecipeError, match="accepted"):
        recipe_from_json({"accepted": {"landing": ""}})
