"""Abrupt: no curve jumps."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Mend, frames_of, replaced
from idle_shimmer.core.envelope import Keys, Swell, Travel, value_at
from idle_shimmer.core.passes.base import Pass

# A curve over n frames may take this share of its whole way from one frame to the next, or 5 / n
# where it is short: a whip over a few frames cannot be slower.
_MOST_SHARE, _MOST_SHARE_FRAMES = 0.6, 5.0
_CERTAIN_SHARE = 0.95


@dataclass(frozen=True)
class _Jump:
    place: int
    each: Pass
    name: str
    share: float
    most: float
    frame: int


class Abrupt(Check):
    """No parameter jumps by more than its share between neighbouring frames; steps excepted."""

    id = "abrupt"
    title = "Abrupt"

    def run(self, context: CheckContext) -> Finding:
        """The widest jump, in percent of the curve's whole way."""
        jumps = list(_jumps(context))
        if not jumps:
            return self.found("ok", 0, "%", "No curve jumps.")
        worse = max(jumps, key=lambda each: each.share / each.most)
        percent = 100 * worse.share
        if worse.share < worse.most - 1e-6:
            return self.found("ok", percent, "%", "No curve jumps.", worse.frame)
        label = worse.each.facts()[worse.name].label.lower()
        return self.found(
            "broken" if worse.share >= _CERTAIN_SHARE else "look",
            percent,
            "%",
            f"{worse.each.id} jumps: its {label} takes {percent:.0f} % of its way at frame"
            f" {worse.frame}.",
            worse.frame,
            _mends(worse),
        )


def _jumps(context: CheckContext) -> Iterator[_Jump]:
    window = context.timeline.window
    for place, each in context.working():
        for name, fact in each.facts().items():
            envelope = getattr(each, name)
            if not isinstance(envelope, Swell | Travel | Keys) or _steps(envelope):
                continue
            frames = list(frames_of(context, each))
            # One frame beyond each end, where the pass is at rest or about to appear.
            around = [frames[0] - 1, *frames, frames[-1] + 1]
            seen = {"outgoing": around[:-1], "incoming": around[1:]}.get(each.side, around)
            values = [_value(value_at(envelope, window.u_of_frame(k), fact.rest)) for k in seen]
            way = float(np.ptp(values, axis=0).max())
            if way == 0:
                continue
            steps = np.abs(np.diff(values, axis=0)).max(axis=1) / way
            at = int(np.argmax(steps))
            most = (
                _MOST_SHARE
                if _leaps(envelope)
                else max(_MOST_SHARE, _MOST_SHARE_FRAMES / len(frames))
            )
            yield _Jump(place, each, name, float(steps[at]), most, seen[at + 1])


def _value(value: Any) -> list[float]:
    return list(value) if isinstance(value, tuple) else [value]


def _steps(envelope: Swell[Any] | Travel[Any] | Keys[Any]) -> bool:
    """Whether the curve is meant to jump."""
    if isinstance(envelope, Keys):
        easings = [key.ease for key in envelope.keys]
    elif isinstance(envelope, Swell):
        easings = [envelope.rise, envelope.fall]
    else:
        easings = [envelope.shape]
    return any(isinstance(one, str) and one.strip().lower().startswith("steps") for one in easings)


def _leaps(envelope: Swell[Any] | Travel[Any] | Keys[Any]) -> bool:
    """Whether the curve itself goes from one value to another in no time."""
    if isinstance(envelope, Swell):
        return envelope.start == envelope.full_from or envelope.full_to == envelope.end
    if isinstance(envelope, Travel):
        return envelope.start == envelope.end
    times = [key.at for key in envelope.keys]
    return len(set(times)) < len(times)


def _mends(jump: _Jump) -> list[Mend]:
    envelope = getattr(jump.each, jump.name)
    if not isinstance(envelope, Swell):
        return []
    path = f"/passes/{jump.place}/{jump.name}"
    patch = [
        replaced(f"{path}/start", -1.0),
        replaced(f"{path}/full_from", min(0.0, max(envelope.full_from, -0.2))),
        replaced(f"{path}/full_to", max(0.0, min(envelope.full_to, 0.2))),
        replaced(f"{path}/end", 1.0),
        replaced(f"{path}/rise", "ease-in"),
        replaced(f"{path}/fall", "ease-out"),
    ]
    return [Mend("let it rise and fall over the whole window", tuple(patch))]
