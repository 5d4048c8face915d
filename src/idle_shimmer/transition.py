"""Two clips, a recipe and a window -> frames: the one path of preview, renders and command line."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Protocol

from idle_shimmer.core.errors import InvalidValue, SpareFramesMissing
from idle_shimmer.core.mixes.base import MatteOf
from idle_shimmer.core.passes.base import Side
from idle_shimmer.core.picture import Codes
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.render import needs, render_frame, spare_frames_needed
from idle_shimmer.core.timeline import Timeline
from idle_shimmer.core.timing import Window


class Frames(Protocol):
    """A clip that can be asked for any of its frames, all of one size."""

    @property
    def name(self) -> str:
        """What to call the clip in a message."""

    @property
    def count(self) -> int | None:
        """How many frames it has; None where it has no end."""

    def frame(self, number: int) -> Codes:
        """Frame ``number``, uint8 (H, W, 3)."""


@dataclass(frozen=True)
class Shortage:
    """How many frames a clip lacks on one side of the cut, and what it has."""

    side: Side
    clip: str
    needed: int
    available: int

    @property
    def missing(self) -> int:
        """How many are missing."""
        return self.needed - self.available

    def __str__(self) -> str:
        place = "after its out point" if self.side == "outgoing" else "before its in point"
        return (
            f"the mix shows {self.needed} spare frames of the {self.side} clip {self.clip} {place},"
            f" which has {self.available}"
        )


@dataclass(frozen=True)
class Transition:
    """A cut between two clips. ``outgoing_out`` is exclusive; both count the clip's frames.

    ``rate`` is in frames a second; ``matte_of`` gives the picture of a wipe by its id.
    With ``hold`` a missing spare frame shows the clip's nearest frame; without it, asking for one
    is an error.
    """

    outgoing: Frames
    incoming: Frames
    outgoing_out: int
    incoming_in: int
    window: Window
    recipe: Recipe
    hold: bool = False
    rate: Fraction = Fraction(25)
    matte_of: MatteOf | None = None

    def timeline(self, size: tuple[int, int]) -> Timeline:
        """The recipe over the window, for frames of (W, H) ``size``."""
        return Timeline(self.recipe, self.window, self.rate, size)

    def shortages(self) -> list[Shortage]:
        """The sides on which the mix needs more spare frames than the clip has.

        None where the recipe holds frames instead.
        """
        if self.recipe.hold_frames:
            return []
        wanted = spare_frames_needed(self.recipe, self.window)
        past = (
            wanted.outgoing
            if self.outgoing.count is None
            else self.outgoing.count - self.outgoing_out
        )
        ahead = wanted.incoming if self.incoming.count is None else self.incoming_in
        found = [
            Shortage("outgoing", self.outgoing.name, wanted.outgoing, past),
            Shortage("incoming", self.incoming.name, wanted.incoming, ahead),
        ]
        return [each for each in found if each.missing > 0]

    def require_frames(self, margin: int = 0) -> None:
        """Raises where the clips lack frames for the window, ``margin`` around it, or the mix."""
        self.require_window(margin)
        if short := self.shortages():
            mend = self._longest_span_text()
            raise SpareFramesMissing(f"{short[0]}: {mend}", field="mix.span")

    def require_window(self, margin: int = 0) -> None:
        """Raises where the clips are shorter than the window and ``margin`` around it."""
        before, after = self.window.before + margin, self.window.after + margin
        retime = self.recipe.retime
        first = retime.outgoing.frames(self.window, -before)[0]
        last = retime.incoming.frames(self.window, after - 1)[1]
        self._require_length("before", "outgoing", margin, -first, self._ahead())
        self._require_length("after", "incoming", margin, last + 1, self._behind())

    def _ahead(self) -> int | None:
        return None if self.outgoing.count is None else self.outgoing_out

    def _behind(self) -> int | None:
        return None if self.incoming.count is None else self.incoming.count - self.incoming_in

    def _require_length(
        self, side: str, clip: str, margin: int, wanted: int, has: int | None
    ) -> None:
        if has is None or wanted <= has:
            return
        around = f" and {margin} of margin" if margin else ""
        if getattr(self.recipe.retime, clip).rests:
            asked, mend = f"{wanted - margin} frames{around}", "make the window shorter"
        else:
            asked = f"{wanted} frames at the speed of the {clip} clip, margin included,"
            mend = "make the window shorter or the speed lower"
        raise InvalidValue(
            f"{asked} {side} the cut, but the {clip} clip"
            f" {getattr(self, clip).name} has {has}: {mend}",
            field=side,
        )

    def _longest_span_text(self) -> str:
        span = self.span_that_fits()
        if span is None:
            return "move the in or out point, or use a hard cut"
        return f"shorten the span to [{span[0]:g}, {span[1]:g}], or move the in or out point"

    def span_that_fits(self) -> tuple[float, float] | None:
        """The mix's span cut down to the spare frames that there are; None where nothing is left."""
        span = getattr(self.recipe.mix, "span", None)
        if span is None:
            return None
        start, end = span
        window, retime = self.window, self.recipe.retime
        for each in self.shortages():
            if each.side == "outgoing":
                there = [retime.outgoing.frames(window, k)[1] for k in range(window.after)]
                end = min(end, sum(k < each.available for k in there) / window.after)
            else:
                there = [retime.incoming.frames(window, -k - 1)[0] for k in range(window.before)]
                start = max(start, -sum(-k <= each.available for k in there) / window.before)
        # Rounded towards the cut, so that what is written down still fits.
        start, end = -int(-start * 1e4) / 1e4, int(end * 1e4) / 1e4
        return (start, end) if start < end else None

    def frame(self, offset: int) -> Codes:
        """Frame ``offset`` from the cut, uint8 (H, W, 3); outside the window the source itself."""
        wanted = needs(self.recipe, self.window, offset)
        outgoing = self._shown("outgoing", offset) if wanted.outgoing else None
        incoming = self._shown("incoming", offset) if wanted.incoming else None
        return render_frame(
            self.recipe,
            self.window,
            offset,
            outgoing,
            incoming,
            rate=self.rate,
            matte_of=self.matte_of,
        )

    def fetch(self, offset: int) -> None:
        """Read what ``frame`` will need of the clips, for clips that keep what they have read."""
        wanted = needs(self.recipe, self.window, offset)
        sides: tuple[Side, Side] = ("outgoing", "incoming")
        for side in sides:
            if getattr(wanted, side):
                self._shown(side, offset)

    def _shown(self, side: Side, offset: int) -> Codes:
        """What a side shows at frame ``offset``, retimed."""
        retime = getattr(self.recipe.retime, side)
        start = self.outgoing_out if side == "outgoing" else self.incoming_in
        first, second, part = retime.frames(self.window, offset)
        one = self._source(side, start + first)
        return one if part == 0 else retime.joined(one, self._source(side, start + second), part)

    def _source(self, side: str, number: int) -> Codes:
        clip: Frames = getattr(self, side)
        last = None if clip.count is None else clip.count - 1
        if self.hold or self.recipe.hold_frames or last is None:
            number = max(number, 0) if last is None else min(max(number, 0), last)
        elif not 0 <= number <= last:
            raise SpareFramesMissing(
                f"frame {number} of {clip.name} does not exist (it has 0 to {last})", field=side
            )
        return clip.frame(number)

    def frames(self, margin: int = 0) -> Iterator[tuple[int, Codes]]:
        """(offset, frame) of the whole window and ``margin`` frames around it, in order."""
        for offset in range(-self.window.before - margin, self.window.after + margin):
            yield offset, self.frame(offset)
