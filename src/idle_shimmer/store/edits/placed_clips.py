"""Placed clips: trimmed, moved, split, removed; the cuts between them follow."""

import uuid
from dataclasses import dataclass

from sqlalchemy.orm import Session

from idle_shimmer.core.animation.shot import WHOLE, Shot
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.framing import Framing
from idle_shimmer.store.cuts.cuts import new_cut
from idle_shimmer.store.cuts.left_cuts import take_off
from idle_shimmer.store.edits.edits import conformed_count, require_place, touch
from idle_shimmer.store.edits.windows import shorten_windows, sides_of, windows_on
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Cut, Edit, PlacedClip


def placed_by_id(edit: Edit, placed_id: uuid.UUID) -> PlacedClip:
    """Return the placed clip of ``edit``. Raises NotFound."""
    found = next((each for each in edit.placed if each.id == placed_id), None)
    if found is None:
        raise NotFound("this clip is no longer in the edit: load the edit again", field="placed")
    return found


def names_in(edit: Edit) -> dict[uuid.UUID, str]:
    """Return the name of every placed clip: its clip's, numbered where several parts are shown.

    The parts of one clip are numbered in the order of the clip, whatever their order in the edit.
    """
    parts: dict[uuid.UUID, list[PlacedClip]] = {}
    for each in edit.placed:
        parts.setdefault(each.clip_id, []).append(each)
    names = {}
    for shown in parts.values():
        for number, each in enumerate(sorted(shown, key=lambda one: one.in_frame), 1):
            name = each.clip.name
            names[each.id] = name if len(shown) == 1 else f"{name}, shot {number}"
    return names


def trim(session: Session, edit: Edit, placed: PlacedClip, in_frame: int, out_frame: int) -> None:
    """Show ``in_frame`` up to ``out_frame`` (exclusive), inside the clip and around its windows."""
    count = conformed_count(placed.clip, parse_rate(edit.rate))
    last = out_frame if count is None else count
    if not 0 <= in_frame < out_frame <= last:
        raise InvalidValue(
            f"{placed.clip.name} has frames 0 to {last}: the in frame must be before the out frame, both inside the clip",
            field="in_frame",
        )
    _require_room(edit, placed, out_frame - in_frame)
    placed.in_frame, placed.out_frame = in_frame, out_frame
    touch(session, edit)


def move(session: Session, edit: Edit, placed: PlacedClip, position: int) -> None:
    """Move ``placed`` to ``position``; a cut moves with its outgoing clip."""
    order = [each for each in edit.placed if each is not placed]
    order.insert(min(max(position, 0), len(order)), placed)
    _arrange(session, edit, order)


def remove(session: Session, edit: Edit, placed: PlacedClip) -> None:
    """Remove ``placed`` from the edit; the clip stays imported."""
    if len(edit.placed) == 1:
        raise InvalidValue(
            "an edit needs at least one clip: delete the edit instead", field="placed"
        )
    _arrange(session, edit, [each for each in edit.placed if each is not placed])


def split(session: Session, edit: Edit, placed: PlacedClip, at_frame: int) -> None:
    """Split ``placed`` in two, the second from ``at_frame`` of the clip."""
    require_place(edit)
    if not placed.in_frame < at_frame < placed.out_frame:
        raise InvalidValue(
            f"split between frames {placed.in_frame + 1} and {placed.out_frame - 1} of the clip",
            field="at_frame",
        )
    second = PlacedClip(
        clip=placed.clip,
        framing=placed.framing,
        strokes=placed.strokes,
        muted=placed.muted,
        gain_db=placed.gain_db,
        crossfade=placed.crossfade,
        deinterlaced=placed.deinterlaced,
        shot=placed.shot,
        in_frame=at_frame,
        out_frame=placed.out_frame,
        position=len(edit.placed),
    )
    edit.placed.append(second)
    placed.out_frame, placed.crossfade = at_frame, 0
    second.cut, placed.cut = placed.cut, None
    order = [each for each in edit.placed if each is not second]
    order.insert(order.index(placed) + 1, second)
    _arrange(session, edit, order)


def frame(session: Session, edit: Edit, placed: PlacedClip, framing: Framing) -> None:
    """Set the framing of ``placed``."""
    placed.framing = framing.model_dump(mode="json", exclude_defaults=True)
    touch(session, edit)


def move_cut(session: Session, edit: Edit, cut: Cut, by: int) -> None:
    """Move ``cut`` ``by`` frames later: a rolling trim of its clips.

    Every other cut stays at its frame. Raises InvalidValue where a clip has no more frames.
    """
    outgoing, incoming = sides_of(cut)
    rate = parse_rate(edit.rate)
    count = conformed_count(outgoing.clip, rate)
    out_frame, in_frame = outgoing.out_frame + by, incoming.in_frame + by
    if in_frame < 0 or (count is not None and out_frame > count):
        side, clip = ("incoming", incoming) if in_frame < 0 else ("outgoing", outgoing)
        raise InvalidValue(
            f"the cut cannot move by {by:+d} frames: the {side} clip {clip.clip.name} has no more",
            field="by",
        )
    _require_room(edit, outgoing, out_frame - outgoing.in_frame)
    _require_room(edit, incoming, incoming.out_frame - in_frame)
    outgoing.out_frame, incoming.in_frame = out_frame, in_frame
    touch(session, edit)


@dataclass(frozen=True, slots=True)
class CutStep:
    """How many frames each clip's cut frame goes on, and whether the clip slips.

    A clip that slips keeps its length: its other end moves within its source as well.
    """

    outgoing: int = 0
    incoming: int = 0
    slip: bool = False


def step_cut(session: Session, edit: Edit, cut: Cut, step: CutStep) -> None:
    """Step the frames that meet at ``cut``. Raises InvalidValue where a clip has no more."""
    one, other = sides_of(cut)
    if step.outgoing:
        first = one.in_frame + (step.outgoing if step.slip else 0)
        trim(session, edit, one, first, one.out_frame + step.outgoing)
    if step.incoming:
        end = other.out_frame + (step.incoming if step.slip else 0)
        trim(session, edit, other, other.in_frame + step.incoming, end)


def framing_of(placed: PlacedClip) -> Framing:
    """Return the framing of ``placed``."""
    return Framing.model_validate(placed.framing)


def shot_of(placed: PlacedClip) -> Shot:
    """Return the shot that ``placed`` lies in, with all that it shows, in frames at the edit's rate."""
    if placed.shot is None:
        return WHOLE
    first, last = placed.shot
    return Shot(first, last + 1).including(placed.in_frame, placed.out_frame)


def _arrange(session: Session, edit: Edit, order: list[PlacedClip]) -> None:
    """Set the positions of the clips, a cut at every join, and a window that fits on every cut."""
    for each in [each for each in edit.placed if each not in order] + order[-1:]:
        take_off(edit, each)
    for position, each in enumerate(order):
        each.position = position
    edit.placed[:] = order
    for each in order[:-1]:
        if each.cut is None:
            each.cut = new_cut()
    session.flush()
    shorten_windows(edit)
    touch(session, edit)


def _require_room(edit: Edit, placed: PlacedClip, frames: int) -> None:
    ahead, behind = windows_on(edit, placed)
    if frames < ahead + behind:
        raise InvalidValue(
            f"{frames} frames leave no room for the windows on {placed.clip.name}"
            f" ({ahead} at its start, {behind} at its end): shorten them first",
            field="out_frame",
        )
