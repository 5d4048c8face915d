"""Cuts: their transition, saved as revisions that can be undone and redone."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Protocol

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import delete, select, tuple_
from sqlalchemy.orm import Session, joinedload
from sqlalchemy.orm.attributes import set_committed_value

from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.recipe import Recipe, SideFrames, problems_of
from idle_shimmer.store.errors import ChangedMeanwhile, NotFound, Unreadable
from idle_shimmer.store.tables import Cut, CutRevision, PlacedClip

_FIRST_SIDE_FRAMES = 8
# Revisions that are dropped were never read.
_UNSEEN = {"synchronize_session": False}


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


# What is made of a new cut shows on frames what is stated.
_HARD_CUT = CutDocument(recipe=Recipe(times="frames"))


def new_cut(document: CutDocument | None = None) -> Cut:
    """Return a cut whose first revision is ``document``, by default a hard cut."""
    return cut_from_raw((document or _HARD_CUT).as_json())


def copied_cut(cut: Cut) -> Cut:
    """Return a new cut with the current document of ``cut``, which need not be readable."""
    return cut_from_raw(current_revision(cut).document)


def cut_from_raw(document: Any, cut_id: uuid.UUID | None = None) -> Cut:
    """Return a new cut with a stored document, which need not be readable."""
    cut = Cut(id=cut_id or uuid.uuid4(), version=1)
    _append(cut, CutRevision(number=1, label="New cut", document=document))
    return cut


def window_of(cut: Cut) -> Window:
    """Return the window of a cut, also of one whose recipe cannot be read."""
    found = UnreadableDocument("", current_revision(cut).document)
    return Window(found.side("before"), found.side("after"))


def cut_by_id(session: Session, cut_id: uuid.UUID, *, for_change: bool = False) -> Cut:
    """Return the cut, locked against other savers if it is to be changed. Raises NotFound."""
    # One that its edit no longer has is on no clip.
    query = select(Cut).where(Cut.id == cut_id, Cut.outgoing_id.is_not(None))
    query = query.options(joinedload(Cut.outgoing).joinedload(PlacedClip.edit))
    if for_change:
        # A row that was read before it was locked is read again.
        query = query.with_for_update(of=Cut).execution_options(populate_existing=True)
    cut = session.scalar(query)
    if cut is None:
        raise NotFound("there is no such cut: it may have been deleted", field="cut")
    return cut


def current_revision(cut: Cut) -> CutRevision:
    """Return the revision that is in force."""
    if cut.revision is None:
        raise LookupError(f"cut {cut.id} has no revision {cut.current}")
    return cut.revision


@dataclass(frozen=True)
class Step:
    """A step in the history of a cut, without its document."""

    number: int
    label: str
    author: str | None
    created_at: datetime


def history(session: Session, cut: Cut, numbers: Sequence[int] | None = None) -> list[Step]:
    """Return the steps of a cut in order, or those of ``numbers``."""
    columns = (CutRevision.number, CutRevision.label, CutRevision.author, CutRevision.created_at)
    query = select(*columns).where(CutRevision.cut_id == cut.id).order_by(CutRevision.number)
    if numbers is not None:
        query = query.where(CutRevision.number.in_(numbers))
    return [Step(*row) for row in session.execute(query)]


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


def prepare_save(session: Session, seen: Sequence[tuple[Cut, int]]) -> None:
    """Prepare cuts, each with the version that the editor saw: what had been undone is dropped.

    Raises ChangedMeanwhile where a cut has another version.
    """
    for cut, version in seen:
        require_seen(cut, version)
    undone = (
        select(Cut.id)
        .where(Cut.id == CutRevision.cut_id, Cut.current < CutRevision.number)
        .where(Cut.id.in_([cut.id for cut, _ in seen]))
    )
    session.execute(delete(CutRevision).where(undone.exists()), execution_options=_UNSEEN)


def save(cut: Cut, document: CutDocument, label: str) -> None:
    """Add a revision to a cut that ``prepare_save`` has prepared, after the one in force."""
    number = cut.current + 1
    _append(cut, CutRevision(number=number, label=label, document=document.as_json()))
    _mark_changed(cut)


def _append(cut: Cut, revision: CutRevision) -> None:
    """Add a revision, and put it in force."""
    cut.revisions.add(revision)
    _put_in_force(cut, revision)


def _put_in_force(cut: Cut, revision: CutRevision) -> None:
    cut.current = revision.number
    set_committed_value(cut, "revision", revision)


def _mark_changed(cut: Cut) -> None:
    cut.version += 1
    # Until its checks have run.
    cut.status = None


def step(session: Session, cut: Cut, seen_version: int, by: int) -> None:
    """Undo (``by`` = -1) or redo (+1). At either end nothing happens."""
    require_seen(cut, seen_version)
    go_to_revisions(session, [(cut, cut.current + by)])


def go_to(session: Session, cut: Cut, seen_version: int, number: int) -> None:
    """Put revision ``number`` in force. Raises NotFound."""
    require_seen(cut, seen_version)
    if not go_to_revisions(session, [(cut, number)]):
        raise NotFound(f"there is no step {number}: load the history again", field="number")


def go_to_revisions(session: Session, wanted: Sequence[tuple[Cut, int]]) -> int:
    """Put a revision of each cut in force, by its number; return how many of them there are."""
    key = tuple_(CutRevision.cut_id, CutRevision.number)
    query = select(CutRevision).where(key.in_([(cut.id, number) for cut, number in wanted]))
    found = {each.cut_id: each for each in session.scalars(query)}
    for cut, _ in wanted:
        if cut.id in found:
            _put_in_force(cut, found[cut.id])
            _mark_changed(cut)
    return len(found)


def require_seen(cut: Cut, seen: int) -> None:
    """Raise ChangedMeanwhile where ``seen`` is not the version of the cut."""
    if cut.version != seen:
        raise ChangedMeanwhile(
            "this cut was changed in another window after you opened it, so your change was not"
            " saved: load the newer state and do it again",
            field="version",
        )
