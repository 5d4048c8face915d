"""Commands that print: recipes, filters, cuts and beats, a recipe in the newest format."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from idle_shimmer.cli.problems import plain_errors
from idle_shimmer.cli.recipe_files import read_recipe

_AsJson = Annotated[bool, typer.Option("--json", help="As JSON.")]


def recipes(
    name: Annotated[str | None, typer.Argument(help="The slug of one recipe.")] = None,
    as_json: _AsJson = False,
) -> None:
    """List the built-in recipes, or print one of them as JSON."""
    if name is None and not as_json:
        from idle_shimmer.book.recipe_texts import summaries

        for slug, notes in summaries():
            print(f"{slug:26} {notes}")
        return
    with plain_errors():
        from idle_shimmer.book.entries import book, entry

        if name is not None:
            print(json.dumps(entry(name).document, indent=1))
            return
        listed = [
            {
                "slug": each.slug,
                "name": each.recipe.name,
                "tags": list(each.recipe.tags),
                "needs": asdict(each.needs),
                "window": each.document.get("window"),
                "notes": each.recipe.notes,
            }
            for each in book().values()
        ]
        print(json.dumps(listed, indent=1))


def filters(
    as_json: Annotated[bool, typer.Option("--json", help="As JSON, with every parameter.")] = False,
) -> None:
    """List the filters and mixes that recipes are made of."""
    from idle_shimmer.core.catalogue import catalogue

    listed = catalogue()
    if as_json:
        print(json.dumps(listed, indent=1))
        return
    for each in listed["filters"]:
        print(f"{each['kind']:20} {each['purpose']}")
    for each in listed["mixes"]:
        print(f"mix {each['kind']:16} {each['purpose']}")


def convert(
    recipe: Annotated[Path, typer.Argument(help="A recipe file of any format.")],
) -> None:
    """Print the same recipe in the newest format."""
    with plain_errors():
        from idle_shimmer.core.conversion import to_newest_format

        # Validated first, so that only readable recipes are printed.
        read_recipe(recipe, field="RECIPE")
        document = json.loads(recipe.read_text(encoding="utf-8"))
        print(json.dumps(to_newest_format(document), indent=1, ensure_ascii=False))


def cuts(
    file: Annotated[Path, typer.Argument(help="A finished edit, a video file.")],
    as_json: _AsJson = False,
    threshold: Annotated[
        float | None, typer.Option(min=0, max=1, help="Minimum confidence; 0.5 by default.")
    ] = None,
) -> None:
    """Detect the cuts of a finished edit: the first frame of every new shot."""
    with plain_errors():
        from idle_shimmer.media.cut_scores import USUAL_THRESHOLD
        from idle_shimmer.media.detection import find_cuts

        found = find_cuts(file, USUAL_THRESHOLD if threshold is None else threshold)
    if as_json:
        print(json.dumps({"cuts": [asdict(each) for each in found]}, indent=1))
        return
    for each in found:
        print(f"{each.frame:8}  {each.confidence:.2f}")


def beats(
    file: Annotated[Path, typer.Argument(help="A file with music: sound, or a video with sound.")],
    as_json: _AsJson = False,
) -> None:
    """Find the beats of music: its tempo, its first beat and every beat."""
    with plain_errors():
        from idle_shimmer.core.errors import InvalidValue
        from idle_shimmer.core.sound.beats import find_beats
        from idle_shimmer.media.sound.accent_files import whole_sound_parts

        found = find_beats(whole_sound_parts(file, field="FILE"))
        if found is None:
            raise InvalidValue(f"{file.name} has no beat that could be found", field="FILE")
    if as_json:
        print(json.dumps(asdict(found), indent=1))
        return
    print(f"{found.bpm:.2f} BPM, first beat at {found.offset_s:.3f} s")
    for each in found.beats_s:
        print(f"{each:10.3f}")


COMMANDS = (recipes, filters, convert, cuts, beats)
