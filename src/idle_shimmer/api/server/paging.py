"""How long lists are asked for in parts."""

from typing import Annotated

from fastapi import Query

from idle_shimmer.limits import MAX_FRAME

MAX_LISTED = 200
Limit = Annotated[int, Query(ge=1, le=MAX_LISTED)]
Offset = Annotated[int, Query(ge=0, le=MAX_FRAME)]
