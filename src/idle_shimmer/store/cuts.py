"""Cuts: their transition, saved as revisions that can be undone and redone."""

import uuid
from dataclasses import dataclass
from typing import Any, Protocol

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import inspect, select
from sqlalchemy.orm import Session, object_session

from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.recipe import Recipe, SideFrames, problems_of
from idle_shimmer.store.errors import ChangedMeanwhile, NotFound, Unreadable
from idle_shimmer.store.models import Cut, CutRevision

_FIRST_SIDE_FRAMES = 8


class CutDocument(BaseModel):
    """What a revision of a cut holds: the window and the recipe."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    before: SideFrames = _FIRST_SIDE_FRAMES
    after: SideFrames = _FIRST_SIDE_FRAMES
    recipe: Recipe = Field(default_factory=Recipe)

    def as_json(self) -> dict[str, Any]:
        """Return the document as it is stored."""
        return self.model_dump(mode="json", by_alias=True, exclude_none=True)


@dataclass(frozen=True)
class UnreadableDocument:
    """A stored document that cannot be read, and why; ``raw`` is kept as it is."""

    reason: str
    raw: Any

    def side(self, name: str) -> int:
        """Return the frames of a side of the window, as far as the document has them."""
        found = self.raw.get(name) if isinstance(self.raw, dict) else None
        return found if isinstance(found, int) and 1 <= found <= MAX_SIDE_FRAMES else 1


class Stored(Protocol):
    """A stored document, and why it could not be converted from an older format."""

    @property
    def document(self) -> Any:
        """The document as it is stored."""

    @property
    def problem(self) -> str | None:
        """The reason, or None."""


def new_cut(document: CutDocument | None = None) -> Cut:
    """Return a cut whose first revision is ``document``, by default a hard cut."""
    first = CutRevision(number=1, label="New cut", document=(document or CutDocument()).as_json())
    return Cut(current=1, version=1, revisions=[first])


def copied_cut(cut: Cut) -> Cut:
    """Return a new cut with the current document of ``cut``, which need not be readable."""
    return cut_from_raw(current_revision(cut).document)


def cut_from_raw(document: Any) -> Cut:
    """Return a new cut with a stored document, which need not be readable."""
    first = CutRevision(number=1, label="New cut", document=document)
    return Cut(current=1, version=1, revisions=[first])


def window_of(cut: Cut) -> Window:
    """Return the window of a cut, also of one whose recipe cannot be read."""
    found = UnreadableDocument("", current_revision(cut).document)
    return Window(found.side("before"), found.side("after"))


def cut_by_id(session: Session, cut_id: uuid.UUID, *, for_change: bool = False) -> Cut:
    """Return the cut, locked against other savers if it is to be changed. Raises NotFound."""
    query = select(Cut).where(Cut.id == cut_id)
    if for_change:
        # A row that was read before it was locked is read again.
        query = query.with_for_update().execution_options(populate_existing=True)
    cut = session.scalar(query)
    if cut is None:
        raise NotFound("there is no such cut: it may have been deleted", field="cut")
    return cut


def revision(cut: Cut, number: int) -> CutRevision | None:
    """Return one revision of a cut, or None; no other is read, as each holds a whole recipe."""
    session = object_session(cut)
    if session is None or "revisions" not in inspect(cut).unloaded:
        return next((each for each in cut.revisions if each.number == number), None)
    return session.get(CutRevision, (cut.id, number))


def current_revision(cut: Cut) -> CutRevision:
    """Return the revision that is in force."""
    found = revision(cut, cut.current)
    if found is None:
        raise LookupError(f"cut {cut.id} has no revision {cut.current}")
    return found


def read_document(owner: Cut | Stored) -> CutDocument | UnreadableDocument:
    """Return the window and recipe of a cut, or of what is stored, of any format, or why it cannot be read."""
    row = current_revision(owner) if isinstance(owner, Cut) else owner
    try:
        return CutDocument.model_validate(row.document)
    except ValidationError as error:
        reason = row.problem or RecipeError(problems_of(error.errors())).messages()
        return UnreadableDocument(reason, row.document)


def document_of(cut: Cut) -> CutDocument:
    """Return the window and recipe in force. Raises Unreadable."""
    found = read_document(cut)
    if isinstance(found, UnreadableDocument):
        raise Unreadable(
            f"this cut cannot be read: {found.reason}. Go back to another step of its history, or"
            " apply a recipe to it",
            field="recipe",
        )
    return found


def readable_document(cut: Cut) -> CutDocument:
    """Return the window and recipe in force; a hard cut in place of a recipe that cannot be read."""
    found = read_document(cut)
    if isinstance(found, CutDocument):
        return found
    return CutDocument(before=found.side("before"), after=found.side("after"))


def save(session: Session, cut: Cut, seen_version: int, document: CutDocument, label: str) -> None:
    """Add a revision after the one in force; what had been undone is dropped."""
    require_seen(cut, seen_version)
    undone = [each for each in cut.revisions if each.number > cut.current]
    for each in undone:
        cut.revisions.remove(each)
    if undone:
        # Their numbers are given anew.
        session.flush()
    cut.revisions.append(
        CutRevision(number=cut.current + 1, label=label, document=document.as_json())
    )
    _go_to(cut, cut.current + 1)


def step(cut: Cut, seen_version: int, by: int) -> None:
    """Undo (``by`` = -1) or redo (+1). At either end nothing happens."""
    require_seen(cut, seen_version)
    if revision(cut, cut.current + by) is not None:
        _go_to(cut, cut.current + by)


def go_to(cut: Cut, seen_version: int, number: int) -> None:
    """Put revision ``number`` in force. Raises NotFound."""
    require_seen(cut, seen_version)
    if revision(cut, number) is None:
        raise NotFound(f"there is no step {number}: load the history again", field="number")
    _go_to(cut, number)


def go_to_revision(cut: Cut, number: int) -> None:
    """Put revision ``number`` in force, where there is one."""
    if revision(cut, number) is not None:
        _go_to(cut, number)


def _go_to(cut: Cut, number: int) -> None:
    cut.current = number
    cut.version += 1
    # Until its checks have run.
    cut.status = None


def require_seen(cut: Cut, seen: int) -> None:
    """Raise ChangedMeanwhile where ``seen`` is not the version of the cut."""
    if cut.version != seen:
        raise ChangedMeanwhile(
            "this cut was changed in another window after you opened it, so your change was not"
            " saved: load the newer state and do it again",
            field="version",
        )
