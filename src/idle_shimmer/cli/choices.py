"""Options that are one of a few words."""

from collections.abc import Sequence
from typing import TypeVar

from idle_shimmer.core.errors import InvalidValue

T = TypeVar("T", bound=str)


def one_of(text: str, known: Sequence[T], option: str) -> T:
    """Return the one of ``known`` that ``text`` is. Raises InvalidValue that names them all."""
    for each in known:
        if text == each:
            return each
    raise InvalidValue(f"'{text}' is not known: give one of {', '.join(known)}", field=option)
