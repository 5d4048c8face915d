"""Abrupt: no curve jumps."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from idle_shimmer.core.animation.easing import is_stepped
from idle_shimmer.core.animation.envelope import Animated, Swell, value_at
from idle_shimmer.core.animation.times import u_of
from idle_shimmer.core.checks.appearance import appearance
from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    Status,
    frames_of,
    set_field,
)
from idle_shimmer.core.filters.base import Filter

# From one frame to the next a curve may change by this share of its whole range, or by 5 / n where
# it lasts only n frames: a fast movement over a few frames cannot be slower.
_MAX_SHARE, _MAX_SHARE_FRAMES = 0.6, 5.0
_FAILED_SHARE = 0.95


@dataclass(frozen=True)
class _Jump:
    """The largest change of a curve between two frames, as a share of its range."""

    place: int
    owner: Filter
    name: str
    share: float
    allowed: float
    frame: int


class Abrupt(Check):
    """No parameter jumps by more than its share between neighbouring frames; steps excepted.

    Nor does a subject appear, or vanish, in more than that share of the frame.
    """

    id = "abrupt"
    title = "Abrupt"
    order = 80

    def run(self, context: CheckContext) -> Finding:
        """Return the largest jump, in percent of the curve's range."""
        seen = appearance(context)
        if seen is not None and seen.share >= _MAX_SHARE:
            status: Status = "failed" if seen.share >= _FAILED_SHARE else "warning"
            return self.found(status, 100 * seen.share, "%", seen.sentence, seen.frame, [seen.fix])
        jumps = list(_jumps(context))
        if not jumps:
            return self.ok(0, "%", "No curve jumps.")
        worst = max(jumps, key=lambda each: each.share / each.allowed)
        percent = 100 * worst.share
        if worst.share < worst.allowed - 1e-6:
            return self.ok(percent, "%", "No curve jumps.", worst.frame)
        label = worst.owner.parameters()[worst.name].label.lower()
        return self.found(
            "failed" if worst.share >= _FAILED_SHARE else "warning",
            percent,
            "%",
            f"{worst.owner.label} jumps: its {label} covers {percent:.0f} % of its range at frame"
            f" {worst.frame}. Give it more frames.",
            worst.frame,
            _fixes(worst),
        )


def _jumps(context: CheckContext) -> Iterator[_Jump]:
    window = context.timeline.window
    for place, owner in context.enabled():
        for name, parameter in owner.parameters().items():
            envelope = getattr(owner, name)
            if not isinstance(envelope, Animated) or any(map(is_stepped, envelope.easings())):
                continue
            frames = list(frames_of(context, owner))
            if not frames:
                continue
            # One frame beyond each end, where the filter is at rest or about to appear.
            around = [frames[0] - 1, *frames, frames[-1] + 1]
            if owner.side == "subject":
                # Before and after its layer it is not seen.
                around = frames
            shown = {"outgoing": around[:-1], "incoming": around[1:]}.get(owner.side, around)
            values = [
                _coordinates(
                    value_at(
                        envelope, window.u_of_frame(k), parameter.rest, parameter.interpolation
                    )
                )
                for k in shown
            ]
            whole = float(np.ptp(values, axis=0).max())
            if whole == 0:
                continue
            shares = np.abs(np.diff(values, axis=0)).max(axis=1) / whole
            at = int(np.argmax(shares))
            allowed = _MAX_SHARE
            if not envelope.jumps_by_design():
                allowed = max(_MAX_SHARE, _MAX_SHARE_FRAMES / len(frames))
            yield _Jump(place, owner, name, float(shares[at]), allowed, shown[at + 1])


def _coordinates(value: Any) -> list[float]:
    return list(value) if isinstance(value, tuple) else [value]


def _fixes(jump: _Jump) -> list[Fix]:
    envelope = getattr(jump.owner, jump.name)
    if not isinstance(envelope, Swell):
        return []
    path = f"/filters/{jump.place}/{jump.name}"
    patch = [
        set_field(f"{path}/start", -1.0),
        set_field(f"{path}/full_from", min(0.0, max(u_of(envelope.full_from), -0.2))),
        set_field(f"{path}/full_to", max(0.0, min(u_of(envelope.full_to), 0.2))),
        set_field(f"{path}/end", 1.0),
        set_field(f"{path}/rise", "ease-in"),
        set_field(f"{path}/fall", "ease-out"),
    ]
    return [Fix("Rise and fall over the whole window", tuple(patch))]
