"""Fields that bodies of several resources have."""

import re
from typing import Annotated

from pydantic import AfterValidator, BaseModel, Field

from idle_shimmer.limits import MAX_NAME_LENGTH

# Breaks of lines, and marks that turn the direction of what follows, in a name mislead who reads it.
_MISLEADING = re.compile(r"[\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069]")


def plain(name: str) -> str:
    """Return a name. Raises ValueError for one with characters that cannot be seen and mislead."""
    if _MISLEADING.search(name):
        raise ValueError("a name has no line breaks and no marks of direction: leave them out")
    return name


Name = Annotated[
    str,
    Field(min_length=1, max_length=MAX_NAME_LENGTH, pattern=r"\S"),
    AfterValidator(plain),
]


class SeenVersion(BaseModel):
    """The version that the editor saw."""

    version: int
