"""Renders what was asked for of an edit into one file."""

from pathlib import Path

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.output.opened_edit import OpenedEdit
from idle_shimmer.output.plan import OutputSettings, What, windows_of
from idle_shimmer.output.round_trip import write_round_trip
from idle_shimmer.output.written_files import (
    Advance,
    sequence_of_edit,
    sequence_of_window,
    write_one,
    write_windows,
)


def render_edit(
    edit: OpenedEdit,
    what: What,
    settings: OutputSettings,
    path: Path,
    advance: Advance,
    *,
    place: int | None = None,
) -> None:
    """Write ``what`` of an edit to ``path``; ``place`` is the cut of a single window.

    ``advance`` is called after every frame and may raise to stop. Raises InvalidValue where frames
    are missing or nothing is to be rendered; nothing is left at ``path`` then.
    """
    plan = edit.plan
    if what == "window":
        if place is None:
            raise InvalidValue("choose a cut to render its window", field="cut")
        edit.require_frames([place])
        write_one(path, sequence_of_window(edit, place, settings), settings, advance)
        return
    edit.require_frames(list(range(len(plan.cuts))))
    edit.require_room()
    if what == "edit":
        write_one(path, sequence_of_edit(edit, settings), settings, advance)
        return
    if what == "round_trip":
        write_round_trip(path, edit, settings, advance)
        return
    places = list(windows_of(plan, what, place))
    if not places:
        raise InvalidValue(
            "no cut of this edit has a filter or a mix: give one a recipe first", field="what"
        )
    write_windows(path, edit, places, settings, advance)
