"""What new parts of a recipe begin with: the defaults of their classes, for the interface."""

from typing import Any

from pydantic import BaseModel

from idle_shimmer.core.animation.easing import KEYWORDS
from idle_shimmer.core.animation.envelope import Follow, Swell, Travel
from idle_shimmer.core.animation.retime import Retime
from idle_shimmer.core.recipe import MAX_SHUTTER_DEG
from idle_shimmer.core.sound.accent import HIGHEST_GAIN_DB, LOWEST_GAIN_DB, Accent
from idle_shimmer.core.subject.layer import SubjectLayer
from idle_shimmer.core.subject.regions import EllipseRegion


def usual() -> dict[str, Any]:
    """Return the fields of a new swell, travel, accent, subject layer, region and speed ramp, and limits.

    Without what has to be chosen: the peak, the amount, the sound, the shape.
    """
    return {
        "swell": _without(Swell[float](peak=0.0), "peak"),
        "travel": _without(Travel[float](amount=0.0), "amount"),
        "follow_shutter": Follow(target="mix").shutter,
        "accent": _without(Accent(sound="whoosh")),
        "gain_db": {"low": LOWEST_GAIN_DB, "high": HIGHEST_GAIN_DB},
        "subject_layer": _without(SubjectLayer()),
        "shape": _without(EllipseRegion(), "kind"),
        "retime": _without(Retime()),
        "max_shutter": MAX_SHUTTER_DEG,
        "easings": {name: list(points) for name, points in KEYWORDS.items()},
    }


def _without(part: BaseModel, *names: str) -> dict[str, Any]:
    return part.model_dump(mode="json", by_alias=True, exclude_none=True, exclude=set(names))
