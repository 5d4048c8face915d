"""What our own timelines keep of a placed clip besides the frames that it shows."""

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from idle_shimmer.core.animation.shot import WHOLE, Shot
from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.framing import UNFRAMED, Framing
from idle_shimmer.core.recipe import problems_of
from idle_shimmer.core.sound.accent import HIGHEST_GAIN_DB, LOWEST_GAIN_DB
from idle_shimmer.core.sound.crossfade import MAX_CROSSFADE_FRAMES
from idle_shimmer.core.subject.strokes import Strokes, sorted_strokes

_MAX_MARKED_FRAMES = 1000


class KeptClip(BaseModel):
    """The in and out frame where speed ramps show others, framing, sound, and the strokes of the subject.

    ``shown`` are the frames that were written beside it: where another program has changed those, its own
    frames count.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    placed: tuple[int, int] | None = None
    shown: tuple[int, int] | None = None
    framing: Framing = UNFRAMED
    muted: bool = False
    gain_db: Annotated[float, Field(ge=LOWEST_GAIN_DB, le=HIGHEST_GAIN_DB, allow_inf_nan=False)] = (
        0.0
    )
    crossfade: Annotated[int, Field(ge=0, le=MAX_CROSSFADE_FRAMES)] = 0
    deinterlaced: bool = True
    shot: Shot = WHOLE
    strokes: Annotated[list[Strokes], Field(max_length=_MAX_MARKED_FRAMES)] = []

    @field_validator("strokes")
    @classmethod
    def _in_order(cls, value: list[Strokes]) -> list[Strokes]:
        return sorted_strokes(value) if value else value

    def as_json(self) -> dict[str, Any]:
        """Return what differs from a clip that is placed as it is."""
        return self.model_dump(mode="json", exclude_defaults=True)

    def frames(self, shown: tuple[int, int]) -> tuple[int, int]:
        """Return the in and out frame of a clip that shows the frames ``shown`` in the file."""
        return self.placed if self.placed is not None and self.shown == shown else shown


AS_PLACED = KeptClip()


def kept_clip(stored: Any, name: str) -> KeptClip:
    """Return what a file keeps of the clip ``name``. Raises InvalidValue."""
    try:
        return KeptClip.model_validate(stored)
    except ValidationError as error:
        reason = RecipeError(problems_of(error.errors())).messages()
        raise InvalidValue(
            f"what the file keeps of {name} is wrong: {reason}", field="file"
        ) from error
