"""One suite for all filters: what each must keep, whatever it does."""

from importlib import resources

import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.catalogue import catalogue
from idle_shimmer.core.filters.base import GeometryFilter, registered
from idle_shimmer.core.frame.warm_up import usual_filter
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from tests.support.frames import render_frame

KINDS = sorted(registered())
WINDOW = Window(6, 6)
LIGHTS = ["linear", "display"]


def working(kind: str, **more: object) -> dict[str, object]:
    """Return the filter at its usual strength, constant."""
    return {**usual_filter(kind), **more}


def recipe(*filters: dict[str, object], light: str = "linear") -> Recipe:
    return recipe_from_json({"light": light, "filters": list(filters)})


def shown(made: Recipe, pair: tuple, offset: int = 0) -> NDArray:
    return render_frame(made, WINDOW, offset, *pair)


def test_every_file_of_the_package_registers_its_pass() -> None:
    files = {file.name[:-3] for file in resources.files("idle_shimmer.core.filters").iterdir()}
    assert {name for name in files if not name.startswith("_")} - {"base"} == set(KINDS)
    assert set(KINDS) == {entry["kind"] for entry in catalogue()["filters"]}


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("light", LIGHTS)
def test_at_rest_it_returns_its_input_bit_for_bit(kind: str, light: str, codes_pair: tuple) -> None:
    assert np.array_equal(
        shown(recipe({"id": "it", "kind": kind}, light=light), codes_pair), codes_pair[1]
    )


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("light", LIGHTS)
def test_at_work_it_changes_the_picture_keeps_its_size_and_repeats_itself(
    kind: str, light: str, codes_pair: tuple
) -> None:
    made = recipe(working(kind), light=light)
    first = shown(made, codes_pair)
    assert first.shape == codes_pair[1].shape
    assert first.dtype == np.uint8
    assert not np.array_equal(first, codes_pair[1])
    assert np.array_equal(first, shown(made, codes_pair))


def constant_cases() -> list[dict[str, object]]:
    """Every blur, and every geometry filter with each edge of its own that shows picture everywhere."""
    cases = []
    for kind, cls in sorted(registered().items()):
        if issubclass(cls, GeometryFilter):
            edges = cls.model_json_schema()["properties"]["edge"]["enum"]
            cases += [working(kind, edge=edge) for edge in edges if edge != "black"]
        elif cls.family == "blur":
            cases.append(working(kind))
    return cases


@pytest.mark.parametrize("document", constant_cases(), ids=lambda d: f"{d['kind']}-{d.get('edge')}")
def test_blurs_and_geometry_keep_a_constant_picture(document: dict[str, object]) -> None:
    flat = np.full((90, 160, 3), (200, 90, 30), np.uint8)
    assert np.array_equal(shown(recipe(document), (flat, flat)), flat)


@pytest.mark.parametrize("kind", KINDS)
def test_switched_off_or_on_the_other_side_it_does_nothing(kind: str, codes_pair: tuple) -> None:
    for idle in ({"enabled": False}, {"opacity": 0.0}, {"side": "outgoing"}):
        assert np.array_equal(shown(recipe(working(kind, **idle)), codes_pair), codes_pair[1])


@pytest.mark.parametrize("kind", KINDS)
def test_half_opacity_is_half_way_in_the_light_of_the_recipe(kind: str, codes_pair: tuple) -> None:
    full = shown(recipe(working(kind), light="display"), codes_pair).astype(float)
    half = shown(recipe(working(kind, opacity=0.5), light="display"), codes_pair)
    unclipped = (full > 0) & (full < 255)
    assert np.abs(half - (full + codes_pair[1]) / 2)[unclipped].max() <= 1


@pytest.mark.parametrize("entry", catalogue()["filters"], ids=lambda entry: entry["kind"])
def test_the_catalogue_has_what_a_control_needs(entry: dict) -> None:
    assert entry["title"]
    assert entry["purpose"].endswith(".")
    assert any(parameter.get("rest") is not None for parameter in entry["parameters"])
    for parameter in entry["parameters"]:
        assert parameter["label"]
        if "choices" in parameter:
            assert parameter["default"] in parameter["choices"]
        if "low" not in parameter:
            continue
        values = (
            parameter["default"]
            if isinstance(parameter["default"], (list, tuple))
            else [parameter["default"]]
        )
        assert all(parameter["low"] <= value <= parameter["high"] for value in values)
        assert parameter["rest"] is None or parameter["rest"] == parameter["default"]
