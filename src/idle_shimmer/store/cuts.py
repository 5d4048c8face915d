"""Cuts: their transition, saved as revisions that can be undone and done again."""

import uuid
from typing import Any

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from idle_shimmer.core.recipe import Recipe, SideFrames
from idle_shimmer.store.errors import ChangedMeanwhile, NotFound
from idle_shimmer.store.models import Cut, CutRevision

_FIRST_SIDE_FRAMES = 8


class CutDocument(BaseModel):
    """What a revision of a cut holds: the window and the recipe."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    before: SideFrames = _FIRST_SIDE_FRAMES
    after: SideFrames = _FIRST_SIDE_FRAMES
    recipe: Recipe = Field(default_factory=Recipe)

    def as_json(self) -> dict[str, Any]:
        """As it is stored."""
        return self.model_dump(mode="json", by_alias=True, exclude_none=True)


def new_cut(document: CutDocument | None = None) -> Cut:
    """A cut whose first revision is ``document``, by default a hard cut."""
    first = CutRevision(number=1, label="new cut", document=(document or CutDocument()).as_json())
    return Cut(current=1, version=1, revisions=[first])


def cut_by_id(session: Session, cut_id: uuid.UUID, *, for_change: bool = False) -> Cut:
    """The cut, locked against other savers where it is to be changed. Raises NotFound."""
    query = select(Cut).where(Cut.id == cut_id)
    cut = session.scalar(query.with_for_update() if for_change else query)
    if cut is None:
        raise NotFound("there is no such cut: it may have been deleted", field="cut")
    return cut


def revision_of(cut: Cut) -> CutRevision:
    """The revision in force."""
    return next(each for each in cut.revisions if each.number == cut.current)


def document_of(cut: Cut) -> CutDocument:
    """The window and recipe in force."""
    return CutDocument.model_validate(revision_of(cut).document)


def save(session: Session, cut: Cut, seen_version: int, document: CutDocument, label: str) -> None:
    """A new revision after the one in force; what had been undone is dropped."""
    _require_version(cut, seen_version)
    for undone in [each for each in cut.revisions if each.number > cut.current]:
        cut.revisions.remove(undone)
    session.flush()
    cut.revisions.append(
        CutRevision(number=cut.current + 1, label=label, document=document.as_json())
    )
    _go_to(cut, cut.current + 1)


def step(cut: Cut, seen_version: int, by: int) -> None:
    """Undo (``by`` = -1) or redo (+1). At either end nothing happens."""
    _require_version(cut, seen_version)
    if any(each.number == cut.current + by for each in cut.revisions):
        _go_to(cut, cut.current + by)


def go_to(cut: Cut, seen_version: int, number: int) -> None:
    """Put revision ``number`` in force. Raises NotFound."""
    _require_version(cut, seen_version)
    if not any(each.number == number for each in cut.revisions):
        raise NotFound(f"there is no step {number}: load the history again", field="number")
    _go_to(cut, number)


def _go_to(cut: Cut, number: int) -> None:
    cut.current = number
    cut.version += 1


def _require_version(cut: Cut, seen: int) -> None:
    if cut.version != seen:
        raise ChangedMeanwhile(
            "this cut was changed in another window after you opened it, so your change was not"
            " saved: load the newer state and do it again",
            field="version",
        )
