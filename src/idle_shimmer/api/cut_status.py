"""The worst status of each cut, as the run shows it: checks on the recipe alone, kept while it stands."""

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


class _Counted:
    """A clip that is only counted, never looked at."""

    def __init__(self, name: str, count: int | None) -> None:
        self.name, self.count = name, count

    def frame(self, number: int) -> None:
        """Nothing: checks on the recipe look at no picture."""
        raise AssertionError(f"frame {number} of {self.name} was asked for")


def status_of(cut: Cut) -> StatusOut:
    """The worst that the checks on the recipe find."""
    outgoing, incoming = edit_store.sides_of(cut)
    edit = outgoing.edit
    rate = parse_rate(edit.rate)
    counts = [edit_store.conformed_count(each.clip, rate) for each in (outgoing, incoming)]
    scale = max(edit.width / side.clip.width for side in (outgoing, incoming))
    return _status(
        cut_store.document_of(cut).model_dump_json(by_alias=True, exclude_none=True),
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
    held = cut_store.CutDocument.model_validate_json(document)
    transition = Transition(
        _Counted("outgoing", outgoing[0]),  # type: ignore[arg-type]
        _Counted("incoming", incoming[0]),  # type: ignore[arg-type]
        outgoing[1],
        incoming[1],
        Window(held.before, held.after),
        held.recipe,
        rate=parse_rate(rate),
    )
    found = worst(check_transition(transition, size, source_scale=source_scale))
    return StatusOut(id=found.id, status=found.status, message=found.message)
