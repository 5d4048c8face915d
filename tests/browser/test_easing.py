"""Easing curves against Chromium: the computed progress of its own animations."""

import pytest
from playwright.sync_api import Page

from idle_shimmer.core.animation.easing import KEYWORDS, curve_of_text

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
