"""Moves an installation into a shared store: copies what its data folder has and the store lacks."""

from sqlalchemy import select

from idle_shimmer.files.file_store import file_store
from idle_shimmer.settings import settings
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.installation import guard_store
from idle_shimmer.store.tables import Clip, Render, SubjectMatte


def fill_store() -> str:
    """Keep the file of every clip, render and matte that lies here; return what was done."""
    guard_store()
    file_store().become_own()
    with session_scope() as session:
        files = [path_of(each) for each in session.scalars(select(Clip.file))]
        for folder, column in (
            (settings().renders, Render.file),
            (settings().mattes, SubjectMatte.file),
        ):
            files += [folder / each for each in session.scalars(select(column)) if each]
    here = [each for each in files if each.is_file()]
    for file in here:
        file_store().keep(file)
    missing = sum(not file_store().has(each) for each in files)
    lost = f", {missing} are neither here nor there" if missing else ""
    return f"{len(here)} files are in {file_store().examined()}{lost}."
