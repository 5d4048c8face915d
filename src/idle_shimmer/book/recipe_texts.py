"""The files of the recipe book and the names of what is in them: nothing here needs the core.

A file may list directions, its own first: the others are derived from it.
"""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from importlib import resources
from typing import Any


@dataclass(frozen=True)
class RecipeFile:
    """A recipe as it is written, and the directions in which the book has it."""

    slug: str
    document: dict[str, Any]
    directions: tuple[str, ...] = ()


def files() -> Iterator[RecipeFile]:
    """Yield the files in the order of their names."""
    folder = resources.files(__package__) / "recipes"
    found = (each for each in folder.iterdir() if each.name.endswith(".json"))
    for file in sorted(found, key=lambda each: each.name):
        document = json.loads(file.read_text(encoding="utf-8"))
        directions = tuple(document.pop("directions", ()))
        yield RecipeFile(file.name.removesuffix(".json"), document, directions)


def summaries() -> Iterator[tuple[str, str]]:
    """Yield (slug, what it is for) of every recipe, directions of one together."""
    for file in files():
        notes = file.document.get("notes", "")
        yield file.slug, notes
        for direction in file.directions[1:]:
            own = file.directions[0]
            yield slug_in(file.slug, own, direction), notes.replace(words(own), words(direction))


def slug_in(slug: str, own: str, direction: str) -> str:
    """Return the slug of a file's recipe in another direction: its own may end with its direction."""
    return f"{slug.removesuffix(f'-{own}')}-{direction}"


def words(direction: str) -> str:
    """Return a direction as the interface says it."""
    return (
        direction.replace("-", " and ")
        if "up-" in direction or "down-" in direction
        else (direction.replace("-", " "))
    )
