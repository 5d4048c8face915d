"""The door of the recipe: what enters, what is refused, and in which words."""

import json

import pytest

from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.recipe import recipe_from_json, recipe_to_json

FOUR_ROLLS = {
    "format": 2,
    "name": "Four rolls up",
    "notes": "",
    "tags": ["rolling", "fast"],
    "window": {"before": 5, "after": 5, "rate": "30"},
    "mix": {"kind": "dissolve", "span": [-0.5, 0.5], "easing": "linear"},
    "shutter": 0,
    "light": "linear",
    "filters": [
        {
            "id": "roll",
            "kind": "roll",
            "side": "across",
            "edge": "tile",
            "y": {"kind": "travel", "amount": -4, "easing": {"steepness": 0.8}},
        },
        {
            "id": "blur",
            "kind": "directional_blur",
            "angle": 90,
            "length": {"kind": "swell", "peak": 0.06, "rise": "ease-in", "fall": "ease-out"},
        },
    ],
}


def test_a_whole_recipe_survives_the_way_out_and_in() -> None:
    recipe = recipe_from_json(json.dumps(FOUR_ROLLS))
    assert recipe.filters[1].side == "across"
    assert recipe_from_json(json.dumps(recipe_to_json(recipe))) == recipe
    assert recipe_to_json(recipe)["filters"][0]["y"]["amount"] == -4


def test_an_empty_recipe_is_a_hard_cut() -> None:
    recipe = recipe_from_json("{}")
    assert (recipe.mix.kind, recipe.filters, recipe.shutter, recipe.light) == (
        "cut",
        (),
        0,
        "linear",
    )


def test_passes_without_an_id_get_one_each() -> None:
    recipe = recipe_from_json({"filters": [{"kind": "roll"}, {"kind": "roll"}]})
    assert [each.id for each in recipe.filters] == ["roll", "roll-2"]


BLUR = {"id": "b", "kind": "gaussian_blur"}


@pytest.mark.parametrize(
    ("document", "message"),
    [
        ({"filters": [{**BLUR, "radius": -1}]}, "filters[0].radius: must be 0 to 2, not -1"),
        (
            {"filters": [{**BLUR, "radius": {"kind": "swell", "peak": 3}}]},
            "filters[0].radius: peak must be 0 to 2, not 3",
        ),
        (
            {"filters": [{**BLUR, "radius": {"kind": "swell", "peak": float("nan")}}]},
            "filters[0].radius.peak: must be a finite number, not nan",
        ),
        ({"filters": [{**BLUR, "radius": "1"}]}, "filters[0].radius: must be a number, not '1'"),
        (
            {"filters": [{**BLUR, "wobble": 1}]},
            "filters[0].wobble: unknown field: remove it or correct its name",
        ),
        (
            {"filters": [{"id": "b", "kind": "smudge"}]},
            "filters[0]: unknown kind 'smudge': use one of 'block_shift'",
        ),
        (
            {"filters": [{**BLUR, "radius": {"kind": "wave"}}]},
            "filters[0].radius: unknown kind 'wave'",
        ),
        ({"filters": [BLUR, BLUR]}, "filters: two filters have the id 'b'"),
        ({"filters": [{**BLUR, "axis": "diagonal"}]}, "filters[0].axis: input should be "),
        (
            {
                "filters": [
                    {**BLUR, "radius": {"kind": "keyframes", "keyframes": [{"at": 2, "value": 1}]}}
                ]
            },
            "filters[0].radius.keyframes[0].at: ",
        ),
        ({"mix": {"kind": "dissolve", "easing": "swing"}}, "mix.easing: 'swing' is not an easing"),
        (
            {"mix": {"kind": "dissolve", "span": [0.5, -0.5]}},
            "mix: the span must not end before it starts",
        ),
        ({"mix": {"kind": "melt"}}, "mix: unknown kind 'melt'"),
        ({"shutter": 721}, "shutter: "),
        ({"window": {"before": 0, "after": 5}}, "window.before: "),
        (
            {"window": {"before": 5, "after": 5, "rate": "fast"}},
            "window.rate: 'fast' is not a frame rate",
        ),
        ({"version": 99}, "version: 99 is not a version of format 1"),
        (
            {"format": 99},
            "format: this recipe has format 99, and this version reads formats up to 2",
        ),
        ({"format": True}, "format: must be a number from 1 to 2, not True"),
        ({"colour": "red"}, "colour: unknown field"),
        ([], "a recipe is a JSON object"),
    ],
)
def test_a_wrong_recipe_is_refused_by_field_and_remedy(document: object, message: str) -> None:
    with pytest.raises(RecipeError) as caught:
        recipe_from_json(json.dumps(document))
    assert str(caught.value).startswith(message)


def test_every_problem_is_told_once() -> None:
    with pytest.raises(RecipeError) as caught:
        recipe_from_json({"shutter": -1, "mix": {"kind": "dissolve", "easing": "swing"}})
    assert [path for path, _ in caught.value.problems] == ["mix.easing", "shutter"]


def test_text_that_is_no_json_is_told() -> None:
    with pytest.raises(RecipeError, match="the recipe is not JSON"):
        recipe_from_json("{nope")
