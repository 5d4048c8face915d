"""Easing curves against independent implementations and the published values.

Published: W3C CSS Easing Functions Level 1 (from memory). Independent: the npm package
``bezier-easing`` here, and Chromium's own animations in ``tests/browser``.
"""

import json
import re
import shutil
import subprocess

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from idle_shimmer.core.animation.easing import (
    KEYWORDS,
    Steepness,
    cubic_bezier,
    curve,
    curve_of_text,
)
from idle_shimmer.core.errors import InvalidValue
from tests.conftest import ROOT

PROGRESS = [i / 40 for i in range(41)]
SHAPES = [
    *KEYWORDS.values(),
    (0.8, 0, 0.2, 1),
    (1, 0, 0, 1),
    (0.3, -0.6, 0.7, 1.6),
    (0, 0, 0, 1),
    (1, 1, 1, 0),
]
TOLERANCE = 2e-6


@pytest.fixture(scope="module")
def independent() -> list[list[float]]:
    """The values of every shape by the npm package bezier-easing, which works in float32 tables."""
    node = shutil.which("node")
    assert node, "./test puts Node on the path"
    program = (
        "import b from 'bezier-easing'; const [shapes, at] = JSON.parse(process.argv[1]);"
        "console.log(JSON.stringify(shapes.map((s) => at.map(b(...s)))))"
    )
    done = subprocess.run(
        [node, "--input-type=module", "-e", program, json.dumps([SHAPES, PROGRESS])],
        cwd=ROOT / "web",
        capture_output=True,
        text=True,
        check=True,
    )
    return json.loads(done.stdout)


def test_cubic_curves_agree_with_an_independent_implementation(
    independent: list[list[float]],
) -> None:
    # That package stops its search at about 1e-7 in x; near a vertical tangent y moves far for it.
    for shape, expected in zip(SHAPES, independent, strict=True):
        steep = shape in ((1, 0, 0, 1), (0, 0, 0, 1), (1, 1, 1, 0))
        found = [cubic_bezier(*shape)(x) for x in PROGRESS]
        assert found == pytest.approx(expected, abs=4e-3 if steep else TOLERANCE), shape


@given(st.floats(0, 1), st.floats(-2, 3), st.floats(0, 1), st.floats(-2, 3), st.floats(0, 1))
def test_a_cubic_curve_passes_through_its_own_points(
    x1: float, y1: float, x2: float, y2: float, s: float
) -> None:
    """Evaluated by its parameter, de Casteljau's way, the curve gives the same y."""

    def at(a: float, b: float) -> float:
        return 3 * (1 - s) ** 2 * s * a + 3 * (1 - s) * s**2 * b + s**3

    x, y = at(x1, x2), at(y1, y2)
    slope_x = 3 * (1 - s) ** 2 * x1 + 6 * (1 - s) * s * (x2 - x1) + 3 * s**2 * (1 - x2)
    if slope_x > 0.05:
        assert cubic_bezier(x1, y1, x2, y2)(x) == pytest.approx(y, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("steps(4, end)", [0, 0, 0.25, 0.25, 0.5, 0.5, 0.75, 0.75, 1]),
        ("steps(4,start)", [0.25, 0.25, 0.5, 0.5, 0.75, 0.75, 1, 1, 1]),
        ("steps(2)", [0, 0, 0, 0, 0.5, 0.5, 0.5, 0.5, 1]),
    ],
)
def test_steps_jump_where_css_says(text: str, expected: list[float]) -> None:
    assert [curve_of_text(text)(x) for x in np.linspace(0, 1, 9)] == expected


def test_steepness_is_the_symmetric_curve() -> None:
    eased = curve(Steepness(steepness=0.8))
    assert [eased(x) for x in PROGRESS] == [cubic_bezier(0.8, 0, 1 - 0.8, 1)(x) for x in PROGRESS]
    assert eased(0.5) == pytest.approx(0.5)
    assert eased(0.5 + 0.2) == pytest.approx(1 - eased(0.5 - 0.2))


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("swing", "'swing' is not an easing: use linear"),
        ("cubic-bezier(1.2,0,0,1)", "x1 of cubic-bezier must lie in 0…1, not 1.2"),
        ("cubic-bezier(0,0,1)", "is not an easing"),
        ("steps(0)", "takes 1 to 10000 steps, not 0"),
    ],
)
def test_an_unknown_easing_is_refused_in_words(text: str, message: str) -> None:
    with pytest.raises(InvalidValue, match=re.escape(message)):
        curve_of_text(text)
