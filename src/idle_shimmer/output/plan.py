"""What is rendered of an edit, complete: no database, no interface."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Literal

from idle_shimmer.core.animation.edit_timing import CutTiming, PlayedRange, played_ranges
from idle_shimmer.core.animation.retime import Retimes
from idle_shimmer.core.animation.shot import WHOLE, Shot
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.framing import UNFRAMED, Framing
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.media.write.output_formats import OutputFormat, Quality
from idle_shimmer.output.sound.edit_accents import HeardCut
from idle_shimmer.output.sound.laid_music import Music
from idle_shimmer.output.subject.opened_subject import MarkedSubject

What = Literal["window", "windows", "edit", "round_trip"]
SizeChoice = Literal["full", "half", "quarter"]
MAX_HANDLES = 100
_DIVISORS: dict[SizeChoice, int] = {"full": 1, "half": 2, "quarter": 4}


@dataclass(frozen=True)
class PlannedClip:
    """A placed clip: its file, and the frames ``in_frame`` … ``out_frame`` (exclusive) at the edit's rate.

    ``gain_db`` is that of its sound; ``crossfade`` is how many frames it crossfades with the next clip's.
    ``shot`` are the frames of the file that may be shown.
    """

    name: str
    file: Path
    in_frame: int
    out_frame: int
    framing: Framing = UNFRAMED
    muted: bool = False
    gain_db: float = 0.0
    crossfade: int = 0
    subject: MarkedSubject | None = None
    deinterlaced: bool = True
    shot: Shot = WHOLE

    @property
    def file_name(self) -> str:
        """The name by which other programs know the file: the clip's, with the file's suffix."""
        return f"{self.name}{self.file.suffix}"


@dataclass(frozen=True)
class PlannedCut:
    """A cut's window and recipe, and its number in the edit (the first is 1)."""

    window: Window
    recipe: Recipe
    number: int

    def retimes(self, rate: Fraction) -> Retimes:
        """Return the speed ramps in the cut's window, in an edit of ``rate`` frames a second."""
        return placed(self.recipe, self.window, rate).retime

    @property
    def is_treated(self) -> bool:
        """Whether its window shows or plays anything but the two clips."""
        recipe = self.recipe
        filters = any(each.enabled for each in recipe.filters)
        return (
            filters
            or recipe.subject_layer is not None
            or recipe.accent is not None
            or recipe.mix.kind != "cut"
            or not recipe.retime.are_normal
        )


@dataclass(frozen=True)
class Run:
    """Source frames of a placed clip between two treated windows; ``first_frame`` is its edit frame."""

    place: int
    first: int
    end: int
    first_frame: int


@dataclass(frozen=True)
class EditPlan:
    """An edit, or a part of it that begins at frame ``first_frame`` of the whole.

    ``cuts[i]`` lies between ``placed[i]`` and ``placed[i + 1]``; ``size`` is (W, H).
    """

    name: str
    size: tuple[int, int]
    rate: Fraction
    placed: tuple[PlannedClip, ...]
    cuts: tuple[PlannedCut, ...]
    first_frame: int = 0
    music: Music | None = None

    @cached_property
    def played(self) -> list[PlayedRange]:
        """What each placed clip shows."""
        ranges = [(each.in_frame, each.out_frame) for each in self.placed]
        return played_ranges(ranges, [CutTiming(c.window, c.retimes(self.rate)) for c in self.cuts])

    @property
    def frame_count(self) -> int:
        """The number of frames of the edit."""
        return sum(each.frames for each in self.played)

    def cut_frame(self, place: int) -> int:
        """Return the frame of the whole edit at which cut ``place`` lies; -1 is its start."""
        return self.first_frame + sum(each.frames for each in self.played[: place + 1])

    def is_sound_changed(self, place: int) -> bool:
        """Whether a placed clip has a gain, or a crossfade at one of its ends."""
        placed = self.placed[place]
        return bool(
            placed.gain_db or placed.crossfade or (place and self.placed[place - 1].crossfade)
        )

    def heard_cuts(self) -> list[HeardCut]:
        """Return every cut with its frame in the whole edit, for its accent."""
        return [
            HeardCut(self.cut_frame(place), cut.window, cut.recipe)
            for place, cut in enumerate(self.cuts)
        ]

    def treated(self) -> list[int]:
        """Return the places of the cuts whose windows show more than the two clips."""
        return [place for place, cut in enumerate(self.cuts) if cut.is_treated]

    def runs(self) -> list[Run]:
        """Return the stretches of clips that no treated window covers, in order, none of them empty."""
        treated, found, at = set(self.treated()), [], self.first_frame
        for place, played in enumerate(self.played):
            first, end, frame = played.first, played.end, at
            if place - 1 in treated:
                frame += self.cuts[place - 1].window.after
                first = played.untreated_first
            if place in treated:
                end = played.untreated_end
            if end > first:
                found.append(Run(place, first, end, frame))
            at += played.frames
        return found

    def around(self, place: int) -> tuple["EditPlan", int]:
        """Return the part that decides about one window, and the cut's place in it.

        Speed ramps at the neighbouring cuts decide which frames its clips show.
        """
        first, end = max(0, place - 1), place + 2
        part = EditPlan(
            self.name,
            self.size,
            self.rate,
            self.placed[first : end + 1],
            self.cuts[first:end],
            self.first_frame + sum(each.frames for each in self.played[:first]),
        )
        return part, place - first


@dataclass(frozen=True)
class OutputSettings:
    """How something is written. ``handles`` are the untreated frames on each side of a window.

    With ``accents_apart`` accents are a sound track of their own, where the format holds several.
    ``name`` is that of the file without its suffix; in a file with several windows ``window_name`` is
    the pattern of theirs, see ``names``.
    """

    output: OutputFormat
    quality: Quality = "standard"
    size: SizeChoice = "full"
    handles: int = 0
    sound: bool = True
    accents_apart: bool = False
    name: str = "render"
    window_name: str = "{edit} cut {cut} {recipe}"

    def size_of(self, full: tuple[int, int]) -> tuple[int, int]:
        """Return the (W, H) that is written, of even numbers where it is not the full size."""
        return scaled_size(full, self.size)


def scaled_size(full: tuple[int, int], choice: SizeChoice) -> tuple[int, int]:
    """Return a (W, H) at a size, of even numbers where it is not the full one."""
    divisor = _DIVISORS[choice]
    if divisor == 1:
        return full
    width, height = (max(2, 2 * round(side / divisor / 2)) for side in full)
    return width, height


def windows_of(plan: EditPlan, what: What, place: int | None) -> Iterator[int]:
    """Yield the places of the windows that are written, one file each."""
    if what == "window" and place is not None:
        yield place
    elif what in ("windows", "round_trip"):
        yield from plan.treated()
