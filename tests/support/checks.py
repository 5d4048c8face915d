"""Checks run on recipes that are stated in a test."""

from fractions import Fraction

from idle_shimmer.core import checks  # noqa: F401
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import CheckContext, Finding, apply_fix, registered
from idle_shimmer.core.recipe import Recipe, recipe_from_json

SIZE = (1280, 720)
USUAL = Window(5, 5)


def context(recipe: Recipe, window: Window = USUAL, **more: object) -> CheckContext:
    return CheckContext(Timeline(recipe, window, Fraction(25), SIZE), **more)  # type: ignore[arg-type]


def found(check: str, *filters: dict, window: Window = USUAL, **recipe: object) -> Finding:
    """What one check finds; every finding must come with its fix proved, where it has one."""
    made = recipe_from_json({"filters": list(filters), **recipe})
    finding = registered()[check].run(context(made, window))
    if finding.fix is not None and finding.fix.patch:
        after = registered()[check].run(context(apply_fix(made, finding.fix), window))
        assert after.status == "ok", f"the fix of {check} leaves {after}"
    return finding


def travel(amount: float, **more: object) -> dict:
    return {"kind": "travel", "amount": amount, **more}


def swell(peak: float, **more: object) -> dict:
    return {"kind": "swell", "peak": peak, **more}
