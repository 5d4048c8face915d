"""Makes an edit of many cuts out of the demo's clips, to see how the page copes: 500 by default."""

import itertools
from typing import Annotated

import typer
from sqlalchemy import select

from idle_shimmer.book.entries import book
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edits
from idle_shimmer.store.edits.edits import Placement
from idle_shimmer.store.tables import Clip, Edit

SHOT_FRAMES = 36
SPARE_FRAMES = 12


def make_large_edit(cuts: int, name: str) -> str:
    """Create the edit; return its id. The demo has to be loaded."""
    with session_scope() as session:
        wanted = select(Edit).where(Edit.name == "Lantern night", Edit.deleted_at.is_(None))
        demo = session.scalars(wanted).first()
        if demo is None:
            raise typer.BadParameter("the demo edit is missing: run ./start once")
        clips = [each.clip for each in demo.placed]
        placements = list(itertools.islice(_placements(clips), cuts + 1))
        documents = list(itertools.islice(_documents(), cuts))
        size = demo.width, demo.height
        edit = edits.create_placed_edit(session, name, size, demo.rate, placements, documents)
        return str(edit.id)


def _placements(clips: list[Clip]) -> "itertools.cycle[Placement]":
    return itertools.cycle(
        [Placement(clip, SPARE_FRAMES, SPARE_FRAMES + SHOT_FRAMES) for clip in clips]
    )


def _documents() -> "itertools.cycle[CutDocument]":
    recipes = [entry.recipe for entry in book().values()]
    return itertools.cycle([CutDocument(before=6, after=6, recipe=each) for each in recipes])


def main(
    cuts: Annotated[int, typer.Option(help="How many cuts")] = 500,
    name: Annotated[str, typer.Option(help="The edit's name")] = "Lantern night, long",
) -> None:
    """Make an edit of many cuts in the database of the application."""
    typer.echo(f"/edits/{make_large_edit(cuts, name)}")


if __name__ == "__main__":
    typer.run(main)
