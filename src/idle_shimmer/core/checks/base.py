"""What a cut check is: a rule that the transition keeps or breaks, with a figure and a mend.

A mend is a patch (RFC 6902, JSON Patch) of the recipe's written-out document, or a move of the cut.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from idle_shimmer.core.passes.base import MovingPass, Pass, Side
from idle_shimmer.core.picture import Codes
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.core.timeline import Timeline

Verdict = Literal["ok", "look", "broken"]
Unit = Literal["px", "deg", "%", "frames", "per second", "passes"]
SEVERITY: dict[Verdict, int] = {"ok": 0, "look": 1, "broken": 2}
Operation = dict[str, Any]


@dataclass(frozen=True)
class Mend:
    """One click that repairs: what it does in words, and either a patch or a move of the cut."""

    label: str
    patch: tuple[Operation, ...] = ()
    move_cut: int | None = None


@dataclass(frozen=True)
class Finding:
    """What a check found. ``frame`` is counted from the cut; None where it is about no one frame."""

    id: str
    verdict: Verdict
    figure: float
    unit: Unit
    frame: int | None
    sentence: str
    mends: tuple[Mend, ...] = ()

    @property
    def mend(self) -> Mend | None:
        """The first mend."""
        return self.mends[0] if self.mends else None

    def as_json(self) -> dict[str, Any]:
        """The finding as the command line and the API carry it."""
        told = {
            name: getattr(self, name) for name in ("id", "verdict", "unit", "frame", "sentence")
        }
        mends = [_mend_json(each) for each in self.mends]
        return {
            **told,
            "figure": round(self.figure, 3),
            "mend": mends[0] if mends else None,
            "more_mends": mends[1:],
        }


def _mend_json(mend: Mend) -> dict[str, Any]:
    told = {name: value for name, value in asdict(mend).items() if value is not None}
    told["patch"] = list(mend.patch)
    return told


@dataclass(frozen=True)
class Shortage:
    """Frames that a clip lacks on one side of the cut."""

    side: Side
    needed: int
    available: int

    @property
    def missing(self) -> int:
        """How many are missing."""
        return self.needed - self.available


@dataclass(frozen=True)
class CheckContext:
    """What the checks look at.

    ``frames`` gives a rendered frame by its offset, uint8 RGB of any one size, or None where the
    clips have none there; without it the checks on pictures are left out. ``source_scale`` is how
    many frame pixels one source pixel covers.
    """

    timeline: Timeline
    shortages: Sequence[Shortage] = ()
    span_that_fits: tuple[float, float] | None = None
    frames: Callable[[int], Codes | None] | None = None
    source_scale: float = 1.0
    document: dict[str, Any] = field(default_factory=dict)

    @property
    def recipe(self) -> Recipe:
        """The recipe that is checked."""
        return self.timeline.recipe

    def working(self) -> Iterator[tuple[int, Pass]]:
        """(place in the stack, pass) for those that are switched on."""
        return ((n, each) for n, each in enumerate(self.recipe.passes) if each.enabled)


class Check:
    """One rule. Subclasses with an ``id`` register themselves."""

    id: str = ""
    title: str = ""
    # On the rendered frames, and so slower than those on the recipe alone.
    on_frames = False

    def __init_subclass__(cls) -> None:
        super().__init_subclass__()
        if cls.id in _REGISTRY:
            raise TypeError(f"two checks are called '{cls.id}'")
        _REGISTRY[cls.id] = cls()

    def run(self, context: CheckContext) -> Finding:
        """The worst that was found."""
        raise NotImplementedError

    def found(
        self,
        verdict: Verdict,
        figure: float,
        unit: Unit,
        sentence: str,
        frame: int | None = None,
        mends: Sequence[Mend] = (),
    ) -> Finding:
        """A finding of this check."""
        return Finding(self.id, verdict, figure, unit, frame, sentence, tuple(mends))


_REGISTRY: dict[str, Check] = {}
ORDER = (
    "landing",
    "rest",
    "spare_frames",
    "edges",
    "direction",
    "pace",
    "abrupt",
    "enlargement",
    "peak",
    "flashes",
)


def registered() -> dict[str, Check]:
    """Every check by its id, in the order in which they are told."""
    return {name: _REGISTRY[name] for name in sorted(_REGISTRY, key=ORDER.index)}


def ids_on_frames() -> list[str]:
    """The checks on rendered frames, which follow the others."""
    return [name for name, check in registered().items() if check.on_frames]


def check_all(context: CheckContext, *, on_frames: bool = True) -> list[Finding]:
    """What every check found; those on rendered frames only where there are frames."""
    wanted = [
        check
        for check in registered().values()
        if not check.on_frames or (on_frames and context.frames is not None)
    ]
    return [check.run(context) for check in wanted]


def worst(findings: Sequence[Finding]) -> Finding:
    """The worst finding; among equals the first."""
    return max(findings, key=lambda each: SEVERITY[each.verdict])


def mended(recipe: Recipe, mend: Mend) -> Recipe:
    """``recipe`` with the mend's patch applied; validated like any recipe."""
    document = recipe_to_json(recipe)
    for operation in mend.patch:
        *way, last = operation["path"].strip("/").split("/")
        target: Any = document
        for part in way:
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


def replaced(path: str, value: Any) -> Operation:
    """The operation that sets the field at ``path``."""
    return {"op": "add" if path.endswith("/-") else "replace", "path": path, "value": value}


def ends_of(side: Side) -> tuple[float, ...]:
    """The ends of the window, in u just outside it, at which a pass of ``side`` is seen."""
    before, after = -1 - 1e-9, 1 + 1e-9
    return {"across": (before, after), "outgoing": (before,), "incoming": (after,)}[side]


def covers(one: Pass, other: Pass) -> bool:
    """Whether two passes are seen in the same frames."""
    return one.side == other.side or "across" in (one.side, other.side)


def frames_of(context: CheckContext, each: Pass) -> range:
    """The frames in which a pass is seen (a mix may show a side a little longer)."""
    window = context.timeline.window
    if each.side == "outgoing":
        return range(-window.before, 0)
    return range(window.after) if each.side == "incoming" else window.offsets


def moving_under(context: CheckContext, blur: Pass) -> list[MovingPass]:
    """The moving passes whose movement a blur covers."""
    return [
        each
        for _, each in context.working()
        if isinstance(each, MovingPass) and each.kind != "shake" and covers(each, blur)
    ]
