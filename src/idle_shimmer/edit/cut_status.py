"""The worst status of each cut, as the edit screen shows it: checks of the recipe alone, stored."""

import time
import uuid
from functools import lru_cache
from typing import Any

from pydantic import BaseModel, ValidationError

from idle_shimmer.core.animation.shot import WHOLE, Shot
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.checks.base import Status, worst
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.framing import source_scale
from idle_shimmer.core.recipe import problems_of
from idle_shimmer.edit.played import played_of, slip_rooms
from idle_shimmer.store.cuts.cut_rows import CutRow
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_of
from idle_shimmer.store.edits.edits import conformed_count
from idle_shimmer.store.edits.placed_clips import framing_of, shot_of
from idle_shimmer.store.tables import Edit
from idle_shimmer.transition.checking import check_transition
from idle_shimmer.transition.transition import SlipRoom
from idle_shimmer.transition.without_pictures import ClipLength, Surrounded, transition_between

# Grows when checks change what they find: what was stored before is found anew.
_CHECKS_VERSION = 7
# How long one request runs checks; the page asks again while some are left.
_RUN_S = 0.4


class StatusOut(BaseModel):
    """The worst finding of a cut, and the reasons of those that were accepted, by their checks' ids."""

    id: str
    status: Status
    message: str
    accepted: dict[str, str] = {}


class KnownStatus(BaseModel):
    """What the checks of a cut found; ``problem`` is why its recipe cannot be read."""

    worst: StatusOut
    problem: str | None = None


class CutStatusOut(BaseModel):
    """A cut and the worst finding of its checks; null until they have run."""

    cut: uuid.UUID
    worst: StatusOut | None
    problem: str | None

    @classmethod
    def of(cls, cut: uuid.UUID, status: KnownStatus | None) -> "CutStatusOut":
        """Return the answer for a cut."""
        if status is None:
            return cls(cut=cut, worst=None, problem=None)
        return cls(cut=cut, worst=status.worst, problem=status.problem)


class Surroundings(BaseModel):
    """What the checks of a cut depend on besides its document.

    ``outgoing`` and ``incoming`` are the clips' lengths (None for a still) and the frames at the cut;
    ``slip_room`` are the frames beyond their far ends; ``marked`` says whether they have a subject,
    ``shots`` which of their frames may be shown.
    """

    version: int
    size: tuple[int, int]
    rate: str
    outgoing: tuple[int | None, int]
    incoming: tuple[int | None, int]
    source_scale: float
    slip_room: tuple[int | None, int | None]
    names: tuple[str, str]
    marked: tuple[bool, bool] = (False, False)
    shots: tuple[Shot, Shot] = (WHOLE, WHOLE)


def known_statuses(edit: Edit, rows: list[CutRow]) -> dict[uuid.UUID, KnownStatus]:
    """Return what was found in the state in which each cut is; others are left out."""
    known = {}
    for row, around in zip(rows, _surroundings(edit, rows), strict=False):
        if row.status is not None and row.status.get("state") == _state_of(row, around):
            known[row.id] = KnownStatus.model_validate(row.status["found"])
    return known


def run_checks(
    edit: Edit, rows: list[CutRow], run_s: float = _RUN_S
) -> tuple[dict[uuid.UUID, KnownStatus], dict[uuid.UUID, dict[str, Any] | None]]:
    """Run the checks that have not run, for about ``run_s``; return what is known, and what is to be stored."""
    known = known_statuses(edit, rows)
    fresh: dict[uuid.UUID, dict[str, Any] | None] = {
        row.id: None for row in rows if row.status is not None and row.id not in known
    }
    end = time.monotonic() + run_s
    for row, around in zip(rows, _surroundings(edit, rows), strict=False):
        if row.id not in known and time.monotonic() < end:
            found = known[row.id] = _found(row, around)
            fresh[row.id] = {
                "state": _state_of(row, around),
                "found": found.model_dump(mode="json"),
            }
    return known, fresh


def _state_of(row: CutRow, around: Surroundings) -> str:
    return row.fingerprint(around.model_dump(mode="json"))


def _surroundings(edit: Edit, rows: list[CutRow]) -> list[Surroundings]:
    rate = parse_rate(edit.rate)
    played, rooms = played_of(session_of(edit), edit, rows), slip_rooms(edit)
    counts = [conformed_count(each.clip, rate) for each in edit.placed]
    return [
        Surroundings(
            version=_CHECKS_VERSION,
            size=(edit.width, edit.height),
            rate=edit.rate,
            outgoing=(counts[n], played[n].end),
            incoming=(counts[n + 1], played[n + 1].first),
            slip_room=(rooms[n].outgoing, rooms[n].incoming),
            names=(outgoing.clip.name, incoming.clip.name),
            marked=(bool(outgoing.strokes), bool(incoming.strokes)),
            shots=(shot_of(outgoing), shot_of(incoming)),
            source_scale=source_scale(
                (edit.width, edit.height),
                *((side.clip.width, side.clip.height) for side in (outgoing, incoming)),
                framings=[framing_of(side) for side in (outgoing, incoming)],
            ),
        )
        for n, (outgoing, incoming) in enumerate(zip(edit.placed, edit.placed[1:], strict=False))
    ]


def _found(row: CutRow, around: Surroundings) -> KnownStatus:
    try:
        document = CutDocument.model_validate(row.document)
    except ValidationError as error:
        reason = row.problem or RecipeError(problems_of(error.errors())).messages()
        message = f"Cannot be read: {reason}"
        return KnownStatus(
            worst=StatusOut(id="recipe", status="failed", message=message), problem=reason
        )
    text = document.model_dump_json(by_alias=True, exclude_none=True)
    return KnownStatus(worst=_worst(text, around.model_dump_json()))


@lru_cache(maxsize=2048)
def _worst(document: str, surroundings: str) -> StatusOut:
    cut = CutDocument.model_validate_json(document)
    around = Surroundings.model_validate_json(surroundings)
    outgoing, incoming = (
        ClipLength(name, *length, marked, shot)
        for name, length, marked, shot in zip(
            around.names,
            (around.outgoing, around.incoming),
            around.marked,
            around.shots,
            strict=True,
        )
    )
    transition = transition_between(
        Surrounded(outgoing, incoming, SlipRoom(*around.slip_room)),
        Window(cut.before, cut.after),
        cut.recipe,
        parse_rate(around.rate),
    )
    findings = check_transition(transition, around.size, source_scale=around.source_scale)
    found = worst(findings)
    accepted = {each.id: each.accepted for each in findings if each.accepted is not None}
    return StatusOut(id=found.id, status=found.status, message=found.message, accepted=accepted)
