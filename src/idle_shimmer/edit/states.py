"""A stored edit, and a stored cut, as they are now: the rows, and what follows from them. Nothing is changed."""

import uuid
from dataclasses import dataclass
from fractions import Fraction

from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.edit.cut_status import KnownStatus, known_statuses
from idle_shimmer.edit.played import played_of
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cut_rows import CutRow, cut_rows
from idle_shimmer.store.cuts.cuts import CutDocument, UnreadableDocument
from idle_shimmer.store.database import session_of
from idle_shimmer.store.edits import edit_history, placed_clips
from idle_shimmer.store.edits.edit_history import Labels
from idle_shimmer.store.edits.windows import Room, room_in, sides_of
from idle_shimmer.store.tables import Cut, Edit, PlacedClip


@dataclass(frozen=True)
class EditState:
    """An edit with its cuts as rows, what their checks found, what each clip shows and is called.

    ``labels`` name the steps that can be undone and redone.
    """

    edit: Edit
    rows: list[CutRow]
    statuses: dict[uuid.UUID, KnownStatus]
    played: list[PlayedRange]
    names: dict[uuid.UUID, str]
    labels: Labels

    @property
    def rate(self) -> Fraction:
        """Frames a second."""
        return parse_rate(self.edit.rate)

    @property
    def frame_count(self) -> int:
        """The frames of the whole edit."""
        return sum(each.frames for each in self.played)


def edit_state(edit: Edit) -> EditState:
    """Return an edit as it is."""
    session = session_of(edit)
    rows = cut_rows(session, edit)
    return EditState(
        edit,
        rows,
        known_statuses(edit, rows),
        played_of(session, edit, rows),
        placed_clips.names_in(edit),
        edit_history.labels(session, edit.id),
    )


@dataclass(frozen=True)
class CutState:
    """A cut with its two clips, its place among the cuts of its edit, and its transition."""

    cut: Cut
    sides: tuple[PlacedClip, PlacedClip]
    rows: list[CutRow]
    place: int
    document: CutDocument | UnreadableDocument
    played: list[PlayedRange]
    names: dict[uuid.UUID, str]
    labels: Labels
    room: Room

    @property
    def edit(self) -> Edit:
        """The edit that it is in."""
        return self.sides[0].edit

    @property
    def rate(self) -> Fraction:
        """Frames a second."""
        return parse_rate(self.edit.rate)

    @property
    def window(self) -> Window:
        """Its window, also where its recipe cannot be read."""
        return self.rows[self.place].window()

    def neighbour(self, by: int) -> uuid.UUID | None:
        """Return the cut ``by`` places further on; None where there is none."""
        place = self.place + by
        return self.rows[place].id if 0 <= place < len(self.rows) else None


def cut_state(cut: Cut) -> CutState:
    """Return a cut as it is."""
    sides = sides_of(cut)
    edit = sides[0].edit
    session = session_of(edit)
    rows = cut_rows(session, edit)
    place = [each.id for each in rows].index(cut.id)
    return CutState(
        cut,
        sides,
        rows,
        place,
        cuts.read_document(rows[place]),
        played_of(session, edit, rows),
        placed_clips.names_in(edit),
        _labels_of(cut),
        room_in(rows, place, sides),
    )


def _labels_of(cut: Cut) -> Labels:
    """Return what undoing and redoing do: steps of the edit about this cut, or of the cut itself."""
    session = session_of(cut)
    about = edit_history.labels_about(session, cut)
    steps = cuts.history(session, cut, (cut.current, cut.current + 1))
    own = {each.number: each.label for each in steps if each.number > 1}
    return Labels(about.undo or own.get(cut.current), about.redo or own.get(cut.current + 1))
