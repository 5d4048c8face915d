"""The worst status of each cut, as the edit screen shows it: checks of the recipe alone, cached."""

from functools import lru_cache

from pydantic import BaseModel

from idle_shimmer.checking import check_transition
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.checks.base import Status, worst
from idle_shimmer.store import cuts as cut_store
from idle_shimmer.store import edits as edit_store
from idle_shimmer.store.models import Cut
from idle_shimmer.transition import Transition


class StatusOut(BaseModel):
    """The worst finding of a cut."""

    id: str
    status: Status
    message: str


class ClipLength:
    """A clip of which only the length matters."""

    def __init__(self, name: str, count: int | None) -> None:
        self.name, self.count = name, count

    def frame(self, number: int) -> None:
        """Fail: nothing here may look at pictures."""
        raise AssertionError(f"frame {number} of {self.name} was asked for")


def status_of(cut: Cut) -> StatusOut:
    """Return the worst that the checks of the recipe find."""
    document = cut_store.read_document(cut)
    if isinstance(document, cut_store.UnreadableDocument):
        return StatusOut(id="recipe", status="failed", message=f"Cannot be read: {document.reason}")
    outgoing, incoming = edit_store.sides_of(cut)
    edit = outgoing.edit
    rate = parse_rate(edit.rate)
    counts = [edit_store.conformed_count(each.clip, rate) for each in (outgoing, incoming)]
    scale = max(edit.width / side.clip.width for side in (outgoing, incoming))
    return _status(
        document.model_dump_json(by_alias=True, exclude_none=True),
        (edit.width, edit.height),
        edit.rate,
        (counts[0], outgoing.out_frame),
        (counts[1], incoming.in_frame),
        scale,
    )


@lru_cache(maxsize=2048)
def _status(
    document: str,
    size: tuple[int, int],
    rate: str,
    outgoing: tuple[int | None, int],
    incoming: tuple[int | None, int],
    source_scale: float,
) -> StatusOut:
    cut = cut_store.CutDocument.model_validate_json(document)
    transition = Transition(
        ClipLength("outgoing", outgoing[0]),  # type: ignore[arg-type]
        ClipLength("incoming", incoming[0]),  # type: ignore[arg-type]
        outgoing[1],
        incoming[1],
        Window(cut.before, cut.after),
        cut.recipe,
        rate=parse_rate(rate),
    )
    found = worst(check_transition(transition, size, source_scale=source_scale))
    return StatusOut(id=found.id, status=found.status, message=found.message)
