"""The recipe: mix, filters and shutter; a transition free of any frame size or frame rate.

``recipe_from_json`` validates whatever enters, converts older formats, and names every problem by
the path of its field.
"""

import json
from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    ValidationError,
    field_validator,
    model_validator,
)

import idle_shimmer.core.filters
import idle_shimmer.core.mixes  # noqa: F401  (importing the packages registers their members)
from idle_shimmer.core.animation.envelope import MIX, Follow
from idle_shimmer.core.animation.retime import Retimes
from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window, parse_rate, rate_text
from idle_shimmer.core.conversion import to_newest_format
from idle_shimmer.core.errors import RecipeError, ShimmerError
from idle_shimmer.core.filters import base as filter_base
from idle_shimmer.core.mixes import base as mix_base
from idle_shimmer.core.mixes.cut import Cut
from idle_shimmer.core.sound.accent import Accent
from idle_shimmer.core.subject.layer import SubjectLayer

if TYPE_CHECKING:
    AnyFilter = filter_base.Filter
    AnyMix = mix_base.Mix
else:
    AnyFilter = Annotated[
        Union[tuple(filter_base.registered().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]
    AnyMix = Annotated[
        Union[tuple(mix_base.registered().values())],  # noqa: UP007
        Field(discriminator="kind"),
    ]

MAX_SHUTTER_DEG = 720
SideFrames = Annotated[int, Field(strict=True, ge=1, le=MAX_SIDE_FRAMES)]


_CheckId = Annotated[str, Field(pattern=r"^[a-z_]{1,40}$")]
_Reason = Annotated[str, Field(min_length=1, max_length=500)]


class SuggestedWindow(BaseModel):
    """The window that a recipe suggests. With a ``rate`` it is a duration, without one it is frames."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    before: SideFrames
    after: SideFrames
    rate: str | None = None

    @field_validator("rate")
    @classmethod
    def _known_rate(cls, value: str | None) -> str | None:
        return None if value is None else rate_text(parse_rate(value))

    def at_rate(self, rate: Fraction) -> Window:
        """Return the window in frames at ``rate``, rounded half up, at least 1 on each side."""
        if self.rate is None:
            return Window(self.before, self.after)
        factor = rate / parse_rate(self.rate)
        before, after = (
            int(count * factor + Fraction(1, 2)) for count in (self.before, self.after)
        )
        return Window(
            min(max(before, 1), MAX_SIDE_FRAMES),
            min(max(after, 1), MAX_SIDE_FRAMES),
        )


class Recipe(BaseModel):
    """A reusable transition. What is left out takes its default; unknown fields are refused.

    Documents of older formats are converted when they are validated.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    format: Literal[2] = 2
    name: Annotated[str, Field(max_length=200)] = "Untitled"
    notes: Annotated[str, Field(max_length=10_000)] = ""
    tags: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=40)] = ()
    window: SuggestedWindow | None = None
    mix: AnyMix = Cut()
    shutter: Annotated[float, Field(strict=True, ge=0, le=MAX_SHUTTER_DEG, allow_inf_nan=False)] = (
        0.0
    )
    light: Literal["linear", "display"] = "linear"
    # "frames" shows the stated values of peaks and keyframes on frames: see ``core.placed``.
    times: Literal["exact", "frames"] = "exact"
    # Where a clip lacks spare frames, its nearest frame is shown in their place.
    hold_frames: Annotated[bool, Field(strict=True)] = False
    retime: Retimes = Retimes()
    subject_layer: SubjectLayer | None = None
    accent: Accent | None = None
    # Findings of checks, by their id, that are meant to be so, with the reason.
    accepted: Annotated[dict[_CheckId, _Reason], Field(max_length=40)] = {}
    filters: Annotated[tuple[AnyFilter, ...], Field(max_length=100)] = ()

    @model_validator(mode="before")
    @classmethod
    def _in_newest_format(cls, document: Any) -> Any:
        return _with_ids(to_newest_format(document)) if isinstance(document, dict) else document

    @field_validator("filters")
    @classmethod
    def _ids_differ(cls, value: tuple[AnyFilter, ...]) -> tuple[AnyFilter, ...]:
        ids = [each.id for each in value]
        twice = next((one for one in ids if ids.count(one) > 1), None)
        if twice is not None:
            raise ValueError(f"two filters have the id '{twice}'")
        return value

    @model_validator(mode="after")
    def _can_be_followed(self) -> "Recipe":
        for owner in self.filters:
            for name, follow in owner.follows():
                is_point = owner.parameters()[name].control == "point"
                known = self._points(owner.id) if is_point else self._moving()
                if follow.target not in known:
                    lacks = "has no point of its own" if is_point else "does not move the picture"
                    hint = _point_to_follow(known) if is_point else _what_to_follow(known)
                    text = f"{owner.id}.{name} follows '{follow.target}', which {lacks}: {hint}"
                    raise RecipeError([("filters", text)])
        return self

    @model_validator(mode="after")
    def _accent_can_follow(self) -> "Recipe":
        followed = self.accent.follow if self.accent is not None else None
        if followed is not None and followed not in self._moving():
            text = f"the accent follows '{followed}', which does not move the picture:"
            raise RecipeError([("accent.follow", f"{text} {_what_to_follow(self._moving())}")])
        return self

    @model_validator(mode="after")
    def _subject_filters_have_a_layer(self) -> "Recipe":
        if self.subject_layer is None:
            owner = next((each for each in self.filters if each.side == "subject"), None)
            if owner is not None:
                text = f"{owner.id} acts on the subject, but the recipe shows none"
                hint = 'give it a subject_layer, such as {"of": "incoming"}, or another side'
                raise RecipeError([("filters", f"{text}: {hint}")])
        return self

    def _moving(self) -> list[str]:
        """Return the ids of what blurs can follow."""
        moving = [each.id for each in self.filters if isinstance(each, filter_base.MovingFilter)]
        return moving if self.mix.displacement(0.0) is None else [*moving, MIX]

    def _points(self, except_id: str) -> list[str]:
        """Return the ids of the filters whose points others can follow."""
        return [
            each.id
            for each in self.filters
            if each.id != except_id
            and (name := each.point_parameter()) is not None
            and not isinstance(getattr(each, name), Follow)
        ]


def _point_to_follow(known: list[str]) -> str:
    return f"follow one of {', '.join(known)}" if known else "give it a point instead"


def _what_to_follow(moving: list[str]) -> str:
    if moving:
        return f"follow one of {', '.join(moving)}"
    kinds = [
        kind
        for kind, cls in sorted(filter_base.registered().items())
        if issubclass(cls, filter_base.MovingFilter)
    ]
    return f"add a filter of the kind {' or '.join(kinds)}, and follow that"


def recipe_from_json(text: str | bytes | dict[str, Any]) -> Recipe:
    """Return the validated recipe. Raises RecipeError that names every wrong field and its remedy."""
    try:
        document = json.loads(text) if isinstance(text, str | bytes) else text
    except (ValueError, RecursionError) as error:
        raise RecipeError([("", f"the recipe is not JSON: {error}")]) from error
    if not isinstance(document, dict):
        raise RecipeError([("", "a recipe is a JSON object")])
    try:
        return Recipe.model_validate_json(json.dumps(_with_ids(to_newest_format(document))))
    except ValidationError as error:
        raise RecipeError(problems_of(error.errors())) from error


def recipe_to_json(recipe: Recipe) -> dict[str, Any]:
    """Return the recipe as a JSON document of the newest format, every field written out."""
    return recipe.model_dump(mode="json", by_alias=True, exclude_none=True)


def _with_ids(document: dict[str, Any]) -> dict[str, Any]:
    """Give filters without an id one after their kind, so that hand-written files stay short."""
    filters = document.get("filters")
    if not isinstance(filters, list | tuple):
        return document
    taken = {
        one["id"] for one in filters if isinstance(one, dict) and isinstance(one.get("id"), str)
    }
    filled = []
    for one in filters:
        if isinstance(one, dict) and "id" not in one:
            stem = str(one.get("kind", "filter"))
            name = next(n for n in _numbered(stem) if n not in taken)
            taken.add(name)
            one = {"id": name, **one}
        filled.append(one)
    return {**document, "filters": filled}


def _numbered(stem: str) -> Iterator[str]:
    yield stem
    number = 2
    while True:
        yield f"{stem}-{number}"
        number += 1


def problems_of(found: Sequence[Any], *, skip: int = 0) -> list[tuple[str, str]]:
    """Return (path of the field, what is wrong and what to do) for every problem Pydantic found.

    ``skip`` leaves out that many leading parts of each path. Where an easing was tried both as text
    and as steepness, only what is wrong with the given kind is reported.
    """
    listed = [
        place_and_text
        for problem in found
        for place_and_text in _placed(problem, _path(problem["loc"][skip:]))
    ]
    easings = {path for path, text in listed if "is not an easing" in text}
    return [
        (path, text) for path, text in listed if path not in easings or "is not an easing" in text
    ]


def _placed(problem: Any, path: str) -> list[tuple[str, str]]:
    """Return the problem's path and text; a conversion names the fields inside the recipe itself."""
    error = problem.get("ctx", {}).get("error")
    if isinstance(error, RecipeError):
        return [(".".join(filter(None, (path, inner))), text) for inner, text in error.problems]
    return [(path, _wording(problem))]


_UNION_TAGS = {"hold", "swell", "travel", "follow", "u", "str", "Steepness"}
# Kinds that have a field of their own name: the kind comes first.
_TAGS_LIKE_FIELDS = {"keyframes", "frames"}


def _path(loc: tuple[int | str, ...]) -> str:
    kinds = set(filter_base.registered()) | set(mix_base.registered())
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
    if part in _TAGS_LIKE_FIELDS:
        return parent != part
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
