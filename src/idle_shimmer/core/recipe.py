"""The recipe: mix, passes and shutter; a transition free of any frame size or frame rate.

``recipe_from_json`` is the door: whatever enters is validated here, and every problem is named by
the path of its field.
"""

import json
from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

import idle_shimmer.core.mixes
import idle_shimmer.core.passes  # noqa: F401  (listing the packages registers their members)
from idle_shimmer.core.errors import RecipeError, ShimmerError
from idle_shimmer.core.mixes import base as mix_base
from idle_shimmer.core.mixes.cut import Cut
from idle_shimmer.core.passes import base as pass_base
from idle_shimmer.core.retime import Retimes
from idle_shimmer.core.timing import MAX_SIDE_FRAMES, parse_rate, rate_text

RECIPE_VERSION = 1

if TYPE_CHECKING:
    AnyPass = pass_base.Pass
    AnyMix = mix_base.Mix
else:
    AnyPass = Annotated[
        Union[tuple(pass_base.registered().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]
    AnyMix = Annotated[
        Union[tuple(mix_base.registered().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]

SideFrames = Annotated[int, Field(strict=True, ge=1, le=MAX_SIDE_FRAMES)]


class SuggestedWindow(BaseModel):
    """The window that a recipe suggests; the cut's own window rules."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    before: SideFrames
    after: SideFrames
    rate: str = "25"

    @field_validator("rate")
    @classmethod
    def _known_rate(cls, value: str) -> str:
        return rate_text(parse_rate(value))


class Recipe(BaseModel):
    """A reusable transition. What is left out takes its default; unknown fields are refused."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    version: Annotated[int, Field(strict=True, ge=1)] = RECIPE_VERSION
    name: Annotated[str, Field(max_length=200)] = "Untitled"
    notes: Annotated[str, Field(max_length=10_000)] = ""
    tags: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=40)] = ()
    window: SuggestedWindow | None = None
    mix: AnyMix = Cut()
    shutter: Annotated[float, Field(strict=True, ge=0, le=720, allow_inf_nan=False)] = 0.0
    light: Literal["linear", "display"] = "linear"
    # Where a clip lacks spare frames, its nearest frame is held in their place.
    hold_frames: Annotated[bool, Field(strict=True)] = False
    retime: Retimes = Retimes()
    passes: Annotated[tuple[AnyPass, ...], Field(max_length=100)] = ()

    @field_validator("version")
    @classmethod
    def _not_newer(cls, value: int) -> int:
        if value > RECIPE_VERSION:
            raise ValueError(
                f"this recipe was written by a newer version ({value}); this one reads up to"
                f" {RECIPE_VERSION}"
            )
        return value

    @field_validator("passes")
    @classmethod
    def _ids_differ(cls, value: tuple[AnyPass, ...]) -> tuple[AnyPass, ...]:
        ids = [each.id for each in value]
        twice = next((one for one in ids if ids.count(one) > 1), None)
        if twice is not None:
            raise ValueError(f"two passes have the id '{twice}'")
        return value

    @field_validator("passes")
    @classmethod
    def _followed_passes_move(cls, value: tuple[AnyPass, ...]) -> tuple[AnyPass, ...]:
        moving = [each.id for each in value if isinstance(each, pass_base.MovingPass)]
        for each in value:
            for name, follow in each.follows():
                if follow.target not in moving:
                    known = ", ".join(moving) or "there is none"
                    raise ValueError(
                        f"{each.id}.{name} follows '{follow.target}', which is no moving pass: give"
                        f" the id of a roll, transform or shake ({known})"
                    )
        return value


def recipe_from_json(text: str | bytes | dict[str, Any]) -> Recipe:
    """The validated recipe. Raises RecipeError that names every wrong field and its remedy."""
    try:
        document = json.loads(text) if isinstance(text, str | bytes) else text
    except (ValueError, RecursionError) as error:
        raise RecipeError([("", f"the recipe is no JSON: {error}")]) from error
    if not isinstance(document, dict):
        raise RecipeError([("", "a recipe is a JSON object")])
    try:
        return Recipe.model_validate_json(json.dumps(_with_ids(document)))
    except ValidationError as error:
        raise RecipeError(problems_of(error.errors())) from error


def recipe_to_json(recipe: Recipe) -> dict[str, Any]:
    """The recipe as a JSON document, every field written out."""
    return recipe.model_dump(mode="json", by_alias=True, exclude_none=True)


def _with_ids(document: dict[str, Any]) -> dict[str, Any]:
    """Passes without an id get one after their kind, so that hand-written files stay short."""
    passes = document.get("passes")
    if not isinstance(passes, list):
        return document
    taken = {
        one["id"] for one in passes if isinstance(one, dict) and isinstance(one.get("id"), str)
    }
    filled = []
    for one in passes:
        if isinstance(one, dict) and "id" not in one:
            stem = str(one.get("kind", "pass"))
            name = next(n for n in _numbered(stem) if n not in taken)
            taken.add(name)
            one = {"id": name, **one}
        filled.append(one)
    return {**document, "passes": filled}


def _numbered(stem: str) -> Any:
    yield stem
    number = 2
    while True:
        yield f"{stem}-{number}"
        number += 1


def problems_of(found: Sequence[Any], *, skip: int = 0) -> list[tuple[str, str]]:
    """(path of the field, what is wrong and what to do) for every problem Pydantic found.

    ``skip`` leaves out that many leading parts of each path. Where text and steepness were both
    tried for an easing, only what is wrong with the kind that was given is told.
    """
    told = [(_path(problem["loc"][skip:]), _wording(problem)) for problem in found]
    easings = {path for path, text in told if "is no easing" in text}
    return [(path, text) for path, text in told if path not in easings or "is no easing" in text]


_UNION_TAGS = {"hold", "swell", "travel", "keys", "follow", "str", "Steepness"}


def _path(loc: tuple[int | str, ...]) -> str:
    kinds = set(pass_base.registered()) | set(mix_base.registered())
    path = ""
    for position, part in enumerate(loc):
        if isinstance(part, int):
            path += f"[{part}]"
        elif _is_tag(part, loc[position - 1] if position else None, kinds):
            continue
        else:
            path += f".{part}" if path else part
    return path


def _is_tag(part: str, parent: int | str | None, kinds: set[str]) -> bool:
    """Whether ``part`` is the name of a chosen kind, which Pydantic puts in the path."""
    if part in kinds:
        return isinstance(parent, int) or parent == "mix"
    if part == "keys":
        return parent != "keys"
    return part in _UNION_TAGS or part.startswith("function-")


def _wording(problem: Any) -> str:
    kind, context = problem["type"], problem.get("ctx", {})
    given = repr(problem["input"])
    given = given if len(given) <= 60 else given[:57] + "…"
    match kind:
        case "extra_forbidden":
            return "unknown field: remove it or correct its name"
        case "missing":
            return "missing: give it a value"
        case "union_tag_invalid":
            return f"unknown kind {context['tag']!r}: use one of {context['expected_tags']}"
        case "union_tag_not_found":
            return "missing 'kind'"
        case "finite_number":
            return f"must be a finite number, not {given}"
        case "float_type" | "int_type" | "float_parsing" | "int_parsing":
            return f"must be a number, not {given}"
        case "value_error":
            wrong = context["error"]
            return wrong.message if isinstance(wrong, ShimmerError) else str(wrong)
        case _:
            # A first word in capitals, such as UUID, stays so.
            text = problem["msg"]
            return f"{text if text[:2].isupper() else text[0].lower() + text[1:]} (got {given})"
