"""The subject layer: the subject of one clip over the mix, for a part of the window."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from idle_shimmer.core.animation.envelope import EnvelopeTime


class SubjectLayer(BaseModel):
    """The subject of clip ``of`` lies over the mix from ``from`` to ``to``, in envelope time."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    of: Literal["outgoing", "incoming"] = "incoming"
    start: EnvelopeTime = Field(default=-1.0, alias="from")
    end: EnvelopeTime = Field(default=1.0, alias="to")

    @model_validator(mode="after")
    def _in_order(self) -> "SubjectLayer":
        if self.start >= self.end:
            raise ValueError("a subject layer must end after it starts")
        return self

    def is_shown_at(self, u: float) -> bool:
        """Whether it is seen at envelope time ``u``."""
        return self.start <= u < self.end
