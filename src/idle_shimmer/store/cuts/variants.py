"""Variants of a cut's transition, pinned to be compared."""

import uuid

from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Cut, CutVariant

_LETTERS = "ABCD"


def pin(session: Session, cut: Cut, document: CutDocument) -> CutVariant:
    """Pin ``document`` under a free letter. Raises InvalidValue beyond four."""
    taken = {each.name for each in cut.variants}
    free = next((letter for letter in _LETTERS if letter not in taken), None)
    if free is None:
        raise InvalidValue(
            "Four variants are pinned. Unpin one first.",
            field="variants",
        )
    variant = CutVariant(name=free, document=document.as_json())
    cut.variants.append(variant)
    session.flush()
    session.refresh(variant)
    return variant


def unpin(session: Session, cut: Cut, variant_id: uuid.UUID) -> None:
    """Unpin a variant. Raises NotFound."""
    cut.variants.remove(variant_of(cut, variant_id))
    session.flush()


def variant_of(cut: Cut, variant_id: uuid.UUID) -> CutVariant:
    """Return a pinned variant of a cut. Raises NotFound."""
    found = next((each for each in cut.variants if each.id == variant_id), None)
    if found is None:
        raise NotFound("this variant is no longer pinned", field="variant")
    return found
