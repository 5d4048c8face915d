"""Rest: every pass does nothing at the ends of the window at which it is seen."""

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Mend, ends_of, replaced
from idle_shimmer.core.facts import Fact
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.passes.base import Pass


class Rest(Check):
    """Across passes rest at both ends, outgoing ones at the start, incoming ones at the end."""

    id = "rest"
    title = "Rest"

    def run(self, context: CheckContext) -> Finding:
        """The number of passes that still work at an end."""
        restless = [
            (place, each, name, u)
            for place, each in context.working()
            for u in ends_of(each.side)
            for name in _restless(each, u)
        ]
        if not restless:
            return self.found("ok", 0, "passes", "Every pass is at rest at the ends of the window.")
        place, each, name, u = restless[0]
        window = context.timeline.window
        end, frame = ("start", -window.before) if u < 0 else ("end", window.after - 1)
        count = len({each.id for _, each, _, _ in restless})
        sentence = (
            f"{each.id} still works at the {end} of the window: its {each.facts()[name].label.lower()}"
            f" does not go back to nothing, so the picture jumps there."
        )
        mends = _mends(place, each, name)
        return self.found("broken", count, "passes", sentence, frame, mends)


def _restless(each: Pass, u: float) -> list[str]:
    values = each.values_at(u, lambda _target: Movement(0.0, 0.0, 0.0, 0.0))
    if values["opacity"] == 0:
        return []
    return [
        name
        for name, fact in each.facts().items()
        if fact.rest is not None and not _wraps(fact) and values[name] != fact.rest
    ]


def _wraps(fact: Fact) -> bool:
    """Whole units are the landing check's."""
    return fact.control == "whole"


def _mends(place: int, each: Pass, name: str) -> list[Mend]:
    envelope = getattr(each, name)
    if not isinstance(envelope, int | float):
        return []
    swell = {"kind": "swell", "peak": envelope}
    label = f"let {each.facts()[name].label.lower()} rise from nothing and go back"
    return [Mend(label, (replaced(f"/passes/{place}/{name}", swell),))]
