"""Fields that bodies of several resources have."""

from typing import Annotated

from pydantic import BaseModel, Field

from idle_shimmer.limits import MAX_NAME_LENGTH

Name = Annotated[str, Field(min_length=1, max_length=MAX_NAME_LENGTH, pattern=r"\S")]


class SeenVersion(BaseModel):
    """The version that the editor saw."""

    version: int
