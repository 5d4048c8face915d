"""The last choice of each account in the Render dialog, and how fast and large renders have been."""

from typing import Any

from sqlalchemy import Float, cast, extract, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from idle_shimmer.store.authors import current_author
from idle_shimmer.store.tables import Render, RenderChoice

_RECENT = 20


def last_choice(session: Session) -> dict[str, Any]:
    """Return what the account at hand chose last; empty before its first render."""
    found = session.get(RenderChoice, current_author() or "")
    return dict(found.choice) if found is not None else {}


def remember_choice(session: Session, choice: dict[str, Any]) -> None:
    """Keep a choice for the account at hand."""
    row = insert(RenderChoice).values(author=current_author() or "", choice=choice)
    session.execute(row.on_conflict_do_update(index_elements=["author"], set_={"choice": choice}))


def measured_rates(session: Session, output: str, quality: str) -> tuple[float, float] | None:
    """Return the bytes and seconds that a million pixels took in this installation's last renders.

    Those in a format and quality; None without any.
    """
    wanted = (
        select(Render.bytes, Render.started_at, Render.finished_at, Render.settings)
        .where(
            Render.state == "done",
            Render.bytes.is_not(None),
            Render.settings["format"].astext == output,
            Render.settings["quality"].astext == quality,
        )
        .order_by(Render.created_at.desc())
        .limit(_RECENT)
        .subquery()
    )
    pixels = func.sum(cast(wanted.c.settings["megapixels"].astext, Float))
    took = func.sum(extract("epoch", wanted.c.finished_at - wanted.c.started_at))
    size, seconds, total = session.execute(select(func.sum(wanted.c.bytes), took, pixels)).one()
    if not total:
        return None
    return float(size) / total, float(seconds) / total
