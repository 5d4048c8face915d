"""The subject layer: the subject of one clip over the mix, for a part of the window."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from idle_shimmer.core.animation.times import EnvelopeTime, Placing, in_order, u_of


class SubjectLayer(BaseModel):
    """The subject of clip ``of`` lies over the mix from ``from`` to ``to``."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    of: Literal["outgoing", "incoming"] = "incoming"
    start: EnvelopeTime = Field(default=-1.0, alias="from")
    end: EnvelopeTime = Field(default=1.0, alias="to")

    @model_validator(mode="after")
    def _in_order(self) -> "SubjectLayer":
        if self.start == self.end or not in_order(self.start, self.end):
            raise ValueError("a subject layer must end after it starts")
        return self

    def placed(self, placing: Placing) -> "SubjectLayer":
        """Return the layer with its times as u; it may last no time in a short window."""
        start = placing.at(self.start)
        return self.model_copy(update={"start": start, "end": max(start, placing.at(self.end))})

    def is_shown_at(self, u: float) -> bool:
        """Whether it is seen at envelope time ``u``."""
        return u_of(self.start) <= u < u_of(self.end)
