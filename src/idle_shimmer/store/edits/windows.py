"""The windows of an edit's cuts: how far each can go, and what is shortened where two meet on a clip."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.cuts.cut_rows import CutRow, cut_rows
from idle_shimmer.store.cuts.cuts import current_revision, window_of
from idle_shimmer.store.tables import Cut, Edit, PlacedClip


def sides_of(cut: Cut) -> tuple[PlacedClip, PlacedClip]:
    """Return (outgoing, incoming) of ``cut``."""
    outgoing = cut.outgoing
    placed = outgoing.edit.placed
    return outgoing, placed[placed.index(outgoing) + 1]


@dataclass(frozen=True)
class Room:
    """The most frames that a window can have on either side of its cut."""

    before: int
    after: int

    def require(self, before: int, after: int) -> None:
        """Raise InvalidValue for a window that runs past its clip or into a neighbour's window."""
        for side, wanted, most in (("before", before, self.before), ("after", after, self.after)):
            if wanted > most:
                raise InvalidValue(
                    f"{wanted} frames reach past the clip or into the next cut's window: use at most"
                    f" {most}",
                    field=side,
                )


def room_of(cut: Cut) -> Room:
    """Return how far the window of ``cut`` can go before it meets a clip's end or another window."""
    outgoing, incoming = sides_of(cut)
    taken, _ = windows_on(outgoing.edit, outgoing)
    _, taken_after = windows_on(outgoing.edit, incoming)
    return Room(
        outgoing.out_frame - outgoing.in_frame - taken,
        incoming.out_frame - incoming.in_frame - taken_after,
    )


def window_in_room(cut: Cut, suggested: Window) -> Window:
    """Return the window that a recipe suggests, shortened to the room that ``cut`` has."""
    room = room_of(cut)
    return Window(min(suggested.before, room.before), min(suggested.after, room.after))


def room_now(session: Session, cut: Cut) -> Room:
    """Return ``room_of`` a cut by what is stored, without reading the other cuts of its edit."""
    rows = cut_rows(session, cut.outgoing.edit)
    return room_in(rows, [each.id for each in rows].index(cut.id), sides_of(cut))


def room_in(rows: Sequence[CutRow], place: int, sides: tuple[PlacedClip, PlacedClip]) -> Room:
    """Return ``room_of`` cut ``place`` of an edit, whose cuts and ``sides`` are known."""
    outgoing, incoming = sides
    taken = rows[place - 1].window().after if place else 0
    taken_after = rows[place + 1].window().before if place + 1 < len(rows) else 0
    return Room(
        outgoing.out_frame - outgoing.in_frame - taken,
        incoming.out_frame - incoming.in_frame - taken_after,
    )


def windows_on(edit: Edit, placed: PlacedClip) -> tuple[int, int]:
    """Return the frames of ``placed`` in the window of the cut before it, and of the one after it."""
    place = edit.placed.index(placed)
    ahead = edit.placed[place - 1].cut if place else None
    taken = window_of(ahead).after if ahead is not None else 0
    return taken, window_of(placed.cut).before if placed.cut is not None else 0


def shorten_windows(edit: Edit) -> None:
    """Shorten windows that overlap on a clip, each in proportion."""
    for placed in edit.placed:
        ahead, behind = windows_on(edit, placed)
        length = placed.out_frame - placed.in_frame
        if ahead + behind <= length:
            continue
        place = edit.placed.index(placed)
        most_ahead = max(1, length * ahead // (ahead + behind))
        _limit_window(edit.placed[place - 1].cut if place else None, after=most_ahead)
        _limit_window(placed.cut, before=max(1, length - most_ahead))


def _limit_window(cut: Cut | None, **most: int) -> None:
    """Shorten a cut's window in its current revision."""
    if cut is None:
        return
    revision, window = current_revision(cut), window_of(cut)
    document = dict(revision.document)
    for side, frames in most.items():
        document[side] = min(getattr(window, side), frames)
    revision.document = document
    cut.version += 1
