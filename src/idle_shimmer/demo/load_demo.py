"""Loads the demo edit, through the same import as users' files."""

import shutil
import tempfile
from pathlib import Path

from sqlalchemy import select

from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.demo.build import CUTS, EDIT_NAME, PLACED, build_clips
from idle_shimmer.demo.demo_subject import STROKES
from idle_shimmer.demo.music import BEATS_PER_MINUTE
from idle_shimmer.demo.paint import HEIGHT, RATE, WIDTH
from idle_shimmer.settings import settings
from idle_shimmer.store.clips import clips
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edits
from idle_shimmer.store.tables import Edit


def load_demo() -> str:
    """Draw what is missing and load the edit, unless one of its name exists; return what was done."""
    with session_scope() as session:
        if session.scalar(select(Edit).where(Edit.name == EDIT_NAME)) is not None:
            return f'The edit "{EDIT_NAME}" is loaded.'
    paths = build_clips(settings().demo)
    settings().media.mkdir(parents=True, exist_ok=True)
    with session_scope() as session, tempfile.TemporaryDirectory(dir=settings().media) as folder:
        registered = []
        for path in paths:
            copy = Path(folder) / path.name
            shutil.copyfile(path, copy)
            title = path.stem.replace("-", " ").capitalize()
            registered.append(clips.register_clip(session, copy, f"{title}{path.suffix}"))
        placements = [edits.Placement(registered[n], first, end) for n, first, end in PLACED]
        documents = [
            CutDocument(before=cut.before, after=cut.after, recipe=recipe_from_json(cut.recipe))
            for cut in CUTS
        ]
        edit = edits.create_placed_edit(
            session, EDIT_NAME, (WIDTH, HEIGHT), str(RATE), placements, documents
        )
        edit.beats_per_minute = BEATS_PER_MINUTE
        for place, strokes in STROKES.items():
            edit.placed[place].strokes = strokes
    return f'Loaded the edit "{EDIT_NAME}": {len(paths)} clips, {len(CUTS)} cuts.'
