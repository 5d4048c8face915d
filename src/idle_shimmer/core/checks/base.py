"""What a cut check is: a rule that the transition keeps or breaks, with a value and a fix.

A fix is a patch (RFC 6902, JSON Patch) of the recipe's written-out document, a move of the cut, or another
window.
Checks ask filters for what they declare of themselves, never for their kind.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any, ClassVar, Literal

from idle_shimmer.core.animation.easing import Easing
from idle_shimmer.core.animation.envelope import MIX, Keyframes, Swell, Travel
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.times import u_of
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import Filter, MovingFilter, Side
from idle_shimmer.core.frame.needs import Shortage, shown_layer
from idle_shimmer.core.mixes.base import SpannedMix
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.core.sound.heard_around import HeardAround

Status = Literal["ok", "warning", "failed"]
Unit = Literal["px", "deg", "%", "frames", "per second", "filters", "times", "dBTP", "clips"]
SEVERITY: dict[Status, int] = {"ok": 0, "warning": 1, "failed": 2}
Operation = dict[str, Any]


@dataclass(frozen=True)
class Fix:
    """One click that repairs: what it does in words, and a patch, a move of the cut or another window."""

    label: str
    patch: tuple[Operation, ...] = ()
    move_cut: int | None = None
    window: Window | None = None

    def as_json(self) -> dict[str, Any]:
        """Return the fix as the command line and the API carry it."""
        fields = {name: value for name, value in asdict(self).items() if value is not None}
        return {**fields, "patch": list(self.patch)}


@dataclass(frozen=True)
class Finding:
    """What a check found. ``frame`` is counted from the cut; None where it concerns no one frame.

    ``accepted`` is the editor's reason where a finding is meant to be so: it counts as ok then. ``detail``
    is a further measure in words, a part of the message that is also shown by itself.
    """

    id: str
    status: Status
    value: float
    unit: Unit
    frame: int | None
    message: str
    fixes: tuple[Fix, ...] = ()
    accepted: str | None = None
    detail: str | None = None

    @property
    def fix(self) -> Fix | None:
        """The first fix."""
        return self.fixes[0] if self.fixes else None

    def as_json(self) -> dict[str, Any]:
        """Return the finding as the command line and the API carry it."""
        fixes = [fix.as_json() for fix in self.fixes]
        return {
            "id": self.id,
            "status": self.status,
            "value": round(self.value, 3),
            "unit": self.unit,
            "frame": self.frame,
            "message": self.message,
            "accepted": self.accepted,
            "detail": self.detail,
            "fix": fixes[0] if fixes else None,
            "more_fixes": fixes[1:],
        }


@dataclass(frozen=True)
class CheckContext:
    """What the checks look at.

    ``frames`` gives a rendered frame by its offset, uint8 RGB of any one size, or None where the
    clips have none there; without it the checks on rendered frames are left out. ``source_scale`` is
    how many frame pixels one source pixel covers. ``sound`` gives what is heard around the window, None
    where that is nothing. ``without_subject`` says, as a sentence for the editor, which subject is missing
    that the recipe needs. ``morphs`` gives (offset, one picture, the other) of every frame in which one
    picture is morphed into another. ``held`` are the spare frames for which another one stands.
    """

    timeline: Timeline
    shortages: Sequence[Shortage] = ()
    span_that_fits: tuple[float, float] | None = None
    frames: Callable[[int], Codes | None] | None = None
    source_scale: float = 1.0
    sound: Callable[[], HeardAround | None] | None = None
    without_subject: str | None = None
    morphs: Callable[[], Iterable[tuple[int, Codes, Codes]]] | None = None
    held: Sequence[Shortage] = ()

    @property
    def recipe(self) -> Recipe:
        """The recipe that is checked."""
        return self.timeline.recipe

    def enabled(self) -> Iterator[tuple[int, Filter]]:
        """Yield (place in the stack, filter) for the filters that are switched on."""
        return ((n, each) for n, each in enumerate(self.recipe.filters) if each.enabled)


class Check:
    """One rule. Subclasses with an ``id`` register themselves.

    ``order`` is the place in which findings are listed; no two checks share one. ``on_frames`` marks
    checks of rendered frames or sound, which take longer than those of the recipe alone.
    """

    id: ClassVar[str] = ""
    title: ClassVar[str] = ""
    order: ClassVar[int] = 0
    on_frames: ClassVar[bool] = False

    def __init_subclass__(cls) -> None:
        super().__init_subclass__()
        for other in _REGISTRY.values():
            if other.id == cls.id or other.order == cls.order:
                raise TypeError(f"two checks have the id '{cls.id}' or the order {cls.order}")
        _REGISTRY[cls.id] = cls()

    def run(self, context: CheckContext) -> Finding:
        """Return the worst that was found."""
        raise NotImplementedError

    def ok(self, value: float, unit: Unit, message: str, frame: int | None = None) -> Finding:
        """Return the finding that the rule is kept."""
        return Finding(self.id, "ok", value, unit, frame, message)

    def found(
        self,
        status: Status,
        value: float,
        unit: Unit,
        message: str,
        frame: int | None = None,
        fixes: Sequence[Fix] = (),
    ) -> Finding:
        """Return a finding of this check."""
        return Finding(self.id, status, value, unit, frame, message, tuple(fixes))


_REGISTRY: dict[str, Check] = {}


def registered() -> dict[str, Check]:
    """Return every check by its id, in the order in which findings are listed."""
    return {check.id: check for check in sorted(_REGISTRY.values(), key=lambda each: each.order)}


def ids_on_frames() -> list[str]:
    """Return the ids of the checks of rendered frames."""
    return [name for name, check in registered().items() if check.on_frames]


def check_all(context: CheckContext, *, on_frames: bool = True) -> list[Finding]:
    """Return what every check found; those of rendered frames only where there are frames."""
    with_frames = on_frames and context.frames is not None
    return [
        accepted(check.run(context), context.recipe)
        for check in registered().values()
        if with_frames or not check.on_frames
    ]


def accepted(finding: Finding, recipe: Recipe) -> Finding:
    """Return ``finding`` as accepted where the recipe gives a reason why it is meant."""
    reason = recipe.accepted.get(finding.id)
    if finding.status == "ok" or reason is None:
        return finding
    return replace(finding, status="ok", accepted=reason)


def worst(findings: Sequence[Finding]) -> Finding:
    """Return the worst finding; among equals the first."""
    return max(findings, key=lambda each: SEVERITY[each.status])


def apply_fix(recipe: Recipe, fix: Fix) -> Recipe:
    """Return ``recipe`` with the patch of ``fix`` applied, validated like any recipe."""
    document = recipe_to_json(recipe)
    for operation in fix.patch:
        *parents, last = operation["path"].strip("/").split("/")
        target: Any = document
        for part in parents:
            target = target[int(part)] if isinstance(target, list) else target[part]
        if isinstance(target, list):
            place = len(target) if last == "-" else int(last)
            if operation["op"] == "add":
                target.insert(place, operation["value"])
            else:
                target[place] = operation["value"]
        else:
            target[last] = operation["value"]
    return recipe_from_json(document)


def set_field(path: str, value: Any) -> Operation:
    """Return the operation that sets the field at ``path``, or appends to a list (``…/-``)."""
    return {"op": "add" if path.endswith("/-") else "replace", "path": path, "value": value}


def window_ends(owner: Filter, recipe: Recipe) -> tuple[float, ...]:
    """Return the times, in u, just outside of which a filter must be at rest.

    Those are the ends of the window at which it is seen. On a subject, it is where the subject joins its
    own picture: incoming at the end of the layer, outgoing at its start.
    """
    before, after = -1 - 1e-9, 1 + 1e-9
    layer = recipe.subject_layer
    if owner.side == "subject" and layer is not None:
        return (u_of(layer.end if layer.of == "incoming" else layer.start),)
    ends = {"across": (before, after), "outgoing": (before,), "incoming": (after,)}
    return ends[owner.side]


def frames_of(context: CheckContext, owner: Filter) -> range:
    """Return the frames in which a filter is seen (a mix may show a side a little longer)."""
    window = context.timeline.window
    if owner.side == "subject":
        return layer_frames(context)
    if owner.side == "outgoing":
        return range(-window.before, 0)
    return range(window.after) if owner.side == "incoming" else window.offsets


def layer_frames(context: CheckContext) -> range:
    """Return the frames in which the subject layer is seen; none without one."""
    window = context.timeline.window
    shown = [k for k in window.offsets if shown_layer(context.recipe, window, k) is not None]
    return range(shown[0], shown[-1] + 1) if shown else range(0)


@dataclass(frozen=True)
class Mover:
    """A filter that moves the picture, or the mix. ``id`` is what a blur follows.

    ``frames`` are those in which it is seen, ``easings`` those of its curves, a list for each curve that moves.
    """

    id: str
    label: str
    side: Side | Literal["mix"]
    frames: range
    easings: tuple[tuple[Easing, ...], ...] = ()


def movers(context: CheckContext) -> list[Mover]:
    """Return the filters, and the mix, that move the picture; random movements have no direction."""
    filters = [
        Mover(each.id, each.label, each.side, frames_of(context, each), _easings_of(each))
        for _, each in context.enabled()
        if isinstance(each, MovingFilter) and each.directed
    ]
    mix = context.recipe.mix
    if mix.displacement(0.0) is None or MIX in {each.id for each in context.recipe.filters}:
        return filters
    easings = ((mix.easing,),) if isinstance(mix, SpannedMix) else ()
    return [*filters, Mover(MIX, mix.title, "mix", context.timeline.window.offsets, easings)]


def moving_under(context: CheckContext, blur: Filter) -> list[Mover]:
    """Return what moves in the frames in which a blur is seen: what it covers."""
    return [
        each
        for each in movers(context)
        if each.side == "mix" or _share_frames(each.side, blur.side)
    ]


def _share_frames(one: Side, other: Side) -> bool:
    """Whether filters on these sides are seen in the same frames, on the same picture."""
    return one == other or ("subject" not in (one, other) and "across" in (one, other))


def _easings_of(owner: Filter) -> tuple[tuple[Easing, ...], ...]:
    envelopes = (getattr(owner, name) for name in owner.parameters())
    return tuple(
        tuple(each.easings())
        for each in envelopes
        if isinstance(each, Swell | Travel | Keyframes) and each.easings()
    )


def plural(count: float, noun: str) -> str:
    """Return a count with its noun: ``1 frame``, ``2 frames``."""
    return f"{count:g} {noun}" if count == 1 else f"{count:g} {noun}s"
