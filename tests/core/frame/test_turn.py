"""Quarter turns of whole recipes: pictures compared on square frames, and four of them are none."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from idle_shimmer.book.directions import in_direction
from idle_shimmer.book.entries import book
from idle_shimmer.core.adjust import staying_upright, turn, with_duration, with_easing, with_snap
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.mixes.wipe_shapes.base import shapes, turned_shape
from idle_shimmer.core.recipe import recipe_from_json
from tests.conftest import code_psnr
from tests.core.test_adjust import STEADY
from tests.support.frames import render_frame

TURNED_DB = 38.0
WINDOW = Window(5, 5)
FAMILIES = [slug for slug in STEADY if book()[slug].family == slug]


@pytest.fixture(scope="module")
def square(codes_pair: tuple) -> list[NDArray]:
    return [cv2.resize(each, (120, 120), interpolation=cv2.INTER_AREA) for each in codes_pair]


@pytest.mark.parametrize("slug", FAMILIES)
def test_the_turned_recipe_on_turned_clips_is_the_turned_result(slug: str, square: list) -> None:
    recipe = book()[slug].recipe
    if staying_upright(recipe):
        pytest.skip("has parts that cannot be turned, and says so")
    turned = [np.ascontiguousarray(np.rot90(each)) for each in square]
    other = turn(recipe)
    for offset in (-2, 0):
        plain = np.rot90(render_frame(recipe, WINDOW, offset, *square))
        assert code_psnr(render_frame(other, WINDOW, offset, *turned), plain) > TURNED_DB


@pytest.mark.parametrize("slug", sorted(book()))
def test_four_turns_are_the_recipe_itself(slug: str) -> None:
    recipe = book()[slug].recipe
    assert turn(recipe, 4) == recipe
    back = recipe
    for _ in range(4):
        back = turn(back)
    assert back == recipe


@given(
    angle=st.floats(-3000, 3000).map(lambda value: round(value, 4)),
    x=st.floats(-1, 2).map(lambda value: round(value, 6)),
    shift=st.floats(-5, 5).map(lambda value: round(value, 6)),
)
def test_four_turns_give_back_every_number(angle: float, x: float, shift: float) -> None:
    recipe = recipe_from_json(
        {
            "filters": [
                {"kind": "directional_blur", "length": 0.1, "angle": angle},
                {"kind": "bulge", "strength": 0.2, "centre": [x, 0.3]},
                {
                    "kind": "transform",
                    "shift_x": {"kind": "swell", "peak": shift},
                    "centre": {"kind": "travel", "from": [x, 0.5], "amount": [0.1, -0.2]},
                },
            ]
        }
    )
    back = recipe
    for _ in range(4):
        back = turn(back)
    assert back == recipe


def test_every_wipe_shape_comes_back_after_four_turns_or_is_told() -> None:
    without = [each for each in shapes() if turned_shape(*each) is None]
    assert 0 < len(without) < 20
    for each in shapes():
        kind, subtype, inverted = *each, False
        for _ in range(4):
            found = turned_shape(kind, subtype)
            if found is None:
                break
            kind, subtype, inverted = found[0], found[1], inverted ^ found[2]
        else:
            assert (kind, subtype, inverted) == (*each, False)


def test_what_cannot_be_turned_is_named() -> None:
    recipe = recipe_from_json(
        {
            "mix": {"kind": "wipe", "matte": {"type": "starWipe", "subtype": "fivePoint"}},
            "filters": [{"kind": "line_jitter", "name": "Torn"}, {"kind": "roll"}],
        }
    )
    assert staying_upright(recipe) == ["Torn", "Wipe"]
    assert staying_upright(book()["whip-left"].recipe) == []


def test_directions_of_the_book_are_derived_from_one_file() -> None:
    whip = book()["whip-left"].recipe
    up_left = in_direction(whip, "left", "up-left")
    roll = up_left.filters[0]
    assert (roll.x.amount, roll.y.amount) == (-1, -1)  # type: ignore[attr-defined]
    assert up_left.name == "Whip up and left"
    assert book()["blurred-push-up"].recipe.mix.origin == "bottom"  # type: ignore[attr-defined]
    assert book()["four-rolls-left"].recipe.filters[0].x.amount == -4  # type: ignore[attr-defined]
    with pytest.raises(InvalidValue, match="no direction 'sideways'"):
        in_direction(whip, "left", "sideways")


def test_a_duration_is_divided_as_before() -> None:
    recipe = recipe_from_json({"window": {"before": 3, "after": 6, "rate": "25"}})
    window = with_duration(recipe, 18).window
    assert window is not None
    assert (window.before, window.after, window.rate) == (6, 12, "25")
    assert with_duration(recipe, 2).window.before == 1  # type: ignore[union-attr]
    with pytest.raises(InvalidValue, match="2 to"):
        with_duration(recipe, 1)


def test_one_easing_and_the_snap_reach_every_curve() -> None:
    recipe = recipe_from_json(
        {
            "mix": {"kind": "dissolve"},
            "filters": [
                {"kind": "roll", "y": {"kind": "travel", "amount": 2}},
                {"kind": "bulge", "strength": {"kind": "swell", "peak": 0.3}},
                {
                    "kind": "grade",
                    "exposure": {
                        "kind": "keyframes",
                        "keyframes": [
                            {"at": -1, "value": 0},
                            {"at": 0, "value": 1},
                            {"at": 1, "value": 0},
                        ],
                    },
                },
            ],
        }
    )
    eased = with_easing(recipe, "linear(0, 0.8 30%, 1)")
    assert eased.model_dump_json().count("linear(0, 0.8 30%, 1)") == 6
    snapped = with_snap(recipe, 0.9).filters[2].exposure.keyframes  # type: ignore[attr-defined]
    assert snapped[0].easing.startswith("cubic-bezier(0.9,0,1,")
    assert snapped[1].easing.startswith("cubic-bezier(0,")
