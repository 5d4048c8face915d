"""The command that adjusts a whole recipe."""

import json
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from idle_shimmer.cli.choices import one_of
from idle_shimmer.cli.options import taking
from idle_shimmer.cli.problems import plain_errors
from idle_shimmer.cli.recipe_files import named_recipe
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.media.complete_files import complete_file

if TYPE_CHECKING:
    from idle_shimmer.core.animation.easing import Easing
    from idle_shimmer.core.recipe import Recipe

_QUARTERS = {"90": 1, "180": 2, "270": 3}


@dataclass(frozen=True, kw_only=True)
class AdjustOptions:
    """What is done to a whole recipe, and where it goes."""

    recipe: Annotated[str, typer.Argument(help="A recipe file, or the slug of a built-in recipe.")]
    turn: Annotated[str | None, typer.Option(help="90, 180 or 270 degrees counter-clockwise.")] = (
        None
    )
    flip: Annotated[str | None, typer.Option(help="horizontal or vertical.")] = None
    strength: Annotated[str | None, typer.Option(help="Of every peak, as 120% or 1.2.")] = None
    duration: Annotated[int | None, typer.Option(help="Frames of the window in all.")] = None
    snap: Annotated[
        float | None, typer.Option(min=0, max=1, help="Steepness of every curve at the cut.")
    ] = None
    easing: Annotated[str | None, typer.Option(help="One easing for every curve, as in CSS.")] = (
        None
    )
    out: Annotated[
        Path | None, typer.Option(help="A file to write; standard output by default.")
    ] = None


@taking(AdjustOptions)
def adjust(options: AdjustOptions) -> None:
    """Print a recipe with another direction, strength, duration or other curves."""
    with plain_errors():
        from idle_shimmer.core import adjust as operations
        from idle_shimmer.core.orientation import AXES
        from idle_shimmer.core.recipe import recipe_to_json

        made = named_recipe(options.recipe, field="RECIPE")
        if options.turn is not None:
            quarters = _QUARTERS[one_of(options.turn.removesuffix("°"), tuple(_QUARTERS), "--turn")]
            for name in operations.staying_upright(made):
                print(f"{name} cannot be turned: it stays as it is", file=sys.stderr)
            made = operations.turn(made, quarters)
        if options.flip is not None:
            made = operations.flip(made, one_of(options.flip, AXES, "--flip"))
        if options.strength is not None:
            made = operations.with_strength(made, _factor(options.strength))
        if options.duration is not None:
            made = _with_duration(made, options.duration)
        if options.snap is not None:
            made = operations.with_snap(made, options.snap)
        if options.easing is not None:
            made = operations.with_easing(made, _easing(options.easing))
        text = json.dumps(recipe_to_json(made), indent=1, ensure_ascii=False)
        if options.out is not None:
            with complete_file(options.out) as file:
                file.write_text(text + "\n", encoding="utf-8")
            return
    print(text)


def _factor(text: str) -> float:
    try:
        factor = float(text.removesuffix("%")) / (100 if text.endswith("%") else 1)
    except ValueError:
        factor = -1.0
    if not 0 <= factor <= 8:
        raise InvalidValue(
            f"'{text}' is no strength: give 0% to 800%, such as 120%", field="--strength"
        )
    return factor


def _with_duration(recipe: "Recipe", frames: int) -> "Recipe":
    from idle_shimmer.core.adjust import with_duration

    try:
        return with_duration(recipe, frames)
    except InvalidValue as error:
        raise InvalidValue(error.message, field="--duration") from None


def _easing(text: str) -> "Easing":
    from idle_shimmer.core.animation.easing import Steepness, curve

    try:
        easing: Easing = Steepness.model_validate_json(text) if text.startswith("{") else text
        curve(easing)
    except InvalidValue as error:
        raise InvalidValue(error.message, field="--easing") from None
    except ValueError:
        raise InvalidValue('a steepness is {"steepness": 0…1}', field="--easing") from None
    return easing


COMMANDS = (adjust,)
