"""Easing curves against Chromium: the computed progress of its own animations."""

import pytest
from playwright.sync_api import Page

from idle_shimmer.core.animation.easing import KEYWORDS, curve_of_text
from idle_shimmer.core.errors import InvalidValue

TEXTS = [
    *KEYWORDS,
    "cubic-bezier(0.8, 0, 0.2, 1)",
    "cubic-bezier(0.3, -0.6, 0.7, 1.6)",
    "steps(4, end)",
    "steps(3, start)",
    "linear(0, 0.25 25% 75%, 1)",
    "linear(0, 30% 0.9, 0.6 10%, 1.2, 1)",
    "linear(0.1, 0.4 50%, 0.5 50%, 0.9)",
]
STEPS = 20
# Chromium evaluates its curves to about this in single precision.
TOLERANCE = 2e-5


@pytest.mark.parametrize("text", TEXTS)
def test_easings_agree_with_chromium(page: Page, text: str) -> None:
    found = page.evaluate(
        """([easing, steps]) => {
            const moving = document.body.animate({ opacity: [0, 1] }, { duration: 1000, fill: 'both' });
            moving.pause();
            moving.effect.updateTiming({ easing });
            return Array.from({ length: steps + 1 }, (_, n) => {
                moving.currentTime = (1000 * n) / steps;
                return moving.effect.getComputedTiming().progress;
            });
        }""",
        [text, STEPS],
    )
    assert [curve_of_text(text)(n / STEPS) for n in range(STEPS + 1)] == pytest.approx(
        found, abs=TOLERANCE
    )


@pytest.mark.parametrize(
    ("text", "is_easing"),
    [
        *((text, True) for text in TEXTS),
        ("cubic-bezier(1.2, 0, 0, 1)", False),
        ("cubic-bezier(0, 0, 1)", False),
        ("steps(0, end)", False),
        ("linear(0, 1 2 3)", False),
        ("linear(0)", False),
        ("ease-sideways", False),
    ],
)
def test_what_is_an_easing_is_one_for_css(page: Page, text: str, is_easing: bool) -> None:
    assert page.evaluate(f"CSS.supports('transition-timing-function', '{text}')") is is_easing
    if is_easing:
        curve_of_text(text)
    else:
        with pytest.raises(InvalidValue):
            curve_of_text(text)
