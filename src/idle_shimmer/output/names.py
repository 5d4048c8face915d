"""File names by a pattern, such as ``{edit} cut {cut} {recipe}``."""

import re
import string

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.limits import MAX_NAME_LENGTH
from idle_shimmer.output.plan import EditPlan

EDIT_FIELDS = ("edit",)
WINDOW_FIELDS = ("edit", "cut", "recipe", "outgoing", "incoming")
# Characters that a common file system refuses in a name.
_REFUSED = re.compile(r'[\x00-\x1f/\\:*?"<>|]+')
_FIELD = re.compile(r"\{(\w+)\}")
_MAX_BYTES = 200


def named(pattern: str, fields: dict[str, object]) -> str:
    """Return the file name, without suffix, that ``pattern`` gives. Raises InvalidValue."""
    if len(pattern) > MAX_NAME_LENGTH:
        raise InvalidValue(f"a name has at most {MAX_NAME_LENGTH} characters", field="name")
    try:
        asked = [name for _, name, _, _ in string.Formatter().parse(pattern) if name is not None]
    except ValueError as error:
        raise InvalidValue(f"'{pattern}' has a lone brace: remove it", field="name") from error
    if unknown := [name for name in asked if name not in fields]:
        known = ", ".join(f"{{{name}}}" for name in fields)
        raise InvalidValue(f"{{{unknown[0]}}} is not part of a name: use {known}", field="name")
    # In one pass: a name that has braces of its own stays as it is.
    text = _FIELD.sub(lambda field: str(fields[field[1]]), pattern)
    plain = " ".join(_REFUSED.sub("_", text).split()).strip(". ")
    return plain.encode()[:_MAX_BYTES].decode(errors="ignore") or "render"


def edit_name(pattern: str, plan: EditPlan) -> str:
    """Return the name of a file with the whole edit."""
    return named(pattern, {"edit": plan.name})


def window_name(pattern: str, plan: EditPlan, place: int) -> str:
    """Return the name of the file of one window; cuts are numbered with two digits or more."""
    cut = plan.cuts[place]
    return named(
        pattern,
        {
            "edit": plan.name,
            "cut": f"{cut.number:02}",
            "recipe": cut.recipe.name or "Untitled",
            "outgoing": plan.placed[place].name,
            "incoming": plan.placed[place + 1].name,
        },
    )


def distinct(names: list[str]) -> list[str]:
    """Return the names, those that were given before numbered."""
    taken: set[str] = set()
    found = []
    for name in names:
        number, each = 2, name
        while each.casefold() in taken:
            each = f"{name} ({number})"
            number += 1
        taken.add(each.casefold())
        found.append(each)
    return found
