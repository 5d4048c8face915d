"""The cuts of an edit as rows: current revisions alone, in one query however many cuts there are."""

import hashlib
import json
import uuid
from dataclasses import dataclass
from typing import Any

from sqlalchemy import and_, select, update
from sqlalchemy.orm import Session

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.store.cuts.cuts import UnreadableDocument
from idle_shimmer.store.tables import Cut, CutRevision, Edit, PlacedClip


@dataclass(frozen=True)
class CutRow:
    """A cut with the document that is in force, as it is stored."""

    id: uuid.UUID
    version: int
    status: dict[str, Any] | None
    document: Any
    problem: str | None

    def window(self) -> Window:
        """Return the window, also of a document that cannot be read."""
        found = UnreadableDocument("", self.document)
        return Window(found.side("before"), found.side("after"))

    def recipe_name(self) -> str:
        """Return the name of the recipe."""
        return str(self._recipe().get("name") or "Untitled")

    def filter_count(self) -> int:
        """Return the number of filters."""
        filters = self._recipe().get("filters")
        return len(filters) if isinstance(filters, list) else 0

    def fingerprint(self, *surroundings: object) -> str:
        """Return a hash of the document and of what else its checks depend on."""
        text = json.dumps([self.document, *surroundings], sort_keys=True, default=str)
        return hashlib.sha256(text.encode()).hexdigest()

    def _recipe(self) -> dict[str, Any]:
        recipe = self.document.get("recipe") if isinstance(self.document, dict) else None
        return recipe if isinstance(recipe, dict) else {}


def cut_rows(session: Session, edit: Edit) -> list[CutRow]:
    """Return the cuts of ``edit`` in order."""
    query = (
        select(Cut.id, Cut.version, Cut.status, CutRevision.document, CutRevision.problem)
        .join(PlacedClip, PlacedClip.id == Cut.outgoing_id)
        .join(CutRevision, and_(CutRevision.cut_id == Cut.id, CutRevision.number == Cut.current))
        .where(PlacedClip.edit_id == edit.id)
        .order_by(PlacedClip.position)
    )
    return [CutRow(*row) for row in session.execute(query)]


def store_statuses(session: Session, statuses: dict[uuid.UUID, dict[str, Any] | None]) -> None:
    """Keep what the checks found, by cut; None where it is not known any more.

    Cuts that are being changed are left out.
    """
    if not statuses:
        return
    free = select(Cut.id).where(Cut.id.in_(statuses)).with_for_update(skip_locked=True)
    rows = [{"id": cut, "status": statuses[cut]} for cut in session.scalars(free)]
    if rows:
        session.execute(update(Cut), rows)
