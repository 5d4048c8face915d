"""Variants of a cut's transition, pinned so that they can be compared and picked from."""

import uuid

from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.cuts import CutDocument
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import Cut, CutVariant

MOST_VARIANTS = 4
_LETTERS = "ABCD"


def pin(session: Session, cut: Cut, document: CutDocument) -> CutVariant:
    """Keep ``document`` beside the cut under a free letter. Raises InvalidValue beyond four."""
    taken = {each.name for each in cut.variants}
    free = next((letter for letter in _LETTERS if letter not in taken), None)
    if free is None:
        raise InvalidValue(
            f"{MOST_VARIANTS} variants are pinned already: let one of them go first",
            field="variants",
        )
    variant = CutVariant(name=free, document=document.as_json())
    cut.variants.append(variant)
    session.flush()
    session.refresh(variant)
    return variant


def unpin(session: Session, cut: Cut, variant_id: uuid.UUID) -> None:
    """Let a variant go. Raises NotFound."""
    found = next((each for each in cut.variants if each.id == variant_id), None)
    if found is None:
        raise NotFound("this variant is no longer pinned", field="variant")
    cut.variants.remove(found)
    session.flush()
