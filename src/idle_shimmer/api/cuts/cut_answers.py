"""What the API answers about a cut."""

import uuid
from typing import Any

from pydantic import BaseModel

from idle_shimmer.api.edits.edit_answers import PlacedOut
from idle_shimmer.core.recipe import Recipe, recipe_to_json
from idle_shimmer.edit.states import CutState
from idle_shimmer.store.cuts.cuts import CutDocument


class CutOut(BaseModel):
    """A cut, complete: what the bench needs. ``recipe`` has every field written out.

    ``problem`` is why the stored recipe cannot be read; ``recipe`` is then a hard cut.
    """

    id: uuid.UUID
    edit_id: uuid.UUID
    edit_name: str
    width: int
    height: int
    rate: str
    beats_per_minute: float | None
    number: int
    of: int
    previous_id: uuid.UUID | None
    next_id: uuid.UUID | None
    edit_frame: int
    most_before: int
    most_after: int
    version: int
    edit_version: int
    undo_label: str | None
    redo_label: str | None
    before: int
    after: int
    recipe: dict[str, Any]
    problem: str | None
    outgoing: PlacedOut
    incoming: PlacedOut

    @classmethod
    def from_state(cls, state: CutState) -> "CutOut":
        """Return the answer for a cut as it is stored."""
        cut, edit, place, document = state.cut, state.edit, state.place, state.document
        outgoing, incoming = (
            PlacedOut.of(each, state.rate, state.names[each.id], state.played[place + n])
            for n, each in enumerate(state.sides)
        )
        return cls(
            id=cut.id,
            edit_id=edit.id,
            edit_name=edit.name,
            width=edit.width,
            height=edit.height,
            rate=edit.rate,
            beats_per_minute=edit.beats_per_minute,
            number=place + 1,
            of=len(state.rows),
            previous_id=state.neighbour(-1),
            next_id=state.neighbour(1),
            edit_frame=sum(each.frames for each in state.played[: place + 1]),
            most_before=state.room.before,
            most_after=state.room.after,
            version=cut.version,
            edit_version=edit.version,
            undo_label=state.labels.undo,
            redo_label=state.labels.redo,
            before=state.window.before,
            after=state.window.after,
            recipe=recipe_to_json(
                document.recipe if isinstance(document, CutDocument) else Recipe()
            ),
            problem=None if isinstance(document, CutDocument) else document.reason,
            outgoing=outgoing,
            incoming=incoming,
        )
