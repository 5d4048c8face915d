"""Puts a recipe on the cuts of a timeline: a plan that is rendered as a round trip."""

from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

from idle_shimmer.core.adjust import flip
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue, ShimmerError, SpareFramesMissing
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.interchange.placing import placed_range
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.accent_files import SOUND_SUFFIXES
from idle_shimmer.output.plan import EditPlan, PlannedClip, PlannedCut
from idle_shimmer.output.subject.opened_subject import MarkedSubject
from idle_shimmer.transition.missing_frames import require_frames, shortages
from idle_shimmer.transition.without_pictures import ClipLength, Surrounded, transition_between

_USUAL_SIDE_FRAMES = 8
_LISTED = 5


@dataclass(frozen=True)
class Baking:
    """What is put on a timeline: ``recipe`` on the cuts numbered in ``cuts``, None for all of them.

    With ``flip_alternate`` every other cut of them is flipped.
    """

    recipe: Recipe
    cuts: frozenset[int] | None = None
    flip_alternate: Axis | None = None


@dataclass
class Baked:
    """The plan, and what could not be done as it was asked for, a line each."""

    plan: EditPlan
    report: list[str] = field(default_factory=list)


def media_files(folder: Path) -> dict[str, Path]:
    """Return the files below ``folder`` by their names without extension, in lower case.

    Lists name clips without an extension. Of files of the same name the first in order is used; sounds are
    left out, as a clip of a timeline has pictures.
    """
    if not folder.is_dir():
        raise InvalidValue(
            f"there is no folder {folder}: give the folder of the clips", field="--media"
        )
    found: dict[str, Path] = {}
    for path in sorted(folder.rglob("*")):
        is_sound = path.suffix.lower() in SOUND_SUFFIXES
        if path.is_file() and not path.name.startswith(".") and not is_sound:
            found.setdefault(_plain(path.name), path)
    return found


def bake(document: EditDocument, media: Path, baking: Baking) -> Baked:
    """Return the plan of ``document`` with a recipe on its cuts. Raises InvalidValue.

    Windows are those that the recipe suggests, shortened where clips are too short for them.
    """
    files = media_files(media)
    names = [_plain(shot.file) for shot in document.clips]
    if missing := sorted(
        {s.file for s, n in zip(document.clips, names, strict=True) if n not in files}
    ):
        more = f" and {len(missing) - _LISTED} more" if len(missing) > _LISTED else ""
        raise InvalidValue(
            f"{media} lacks {', '.join(missing[:_LISTED])}{more}: put them there", field="--media"
        )
    report = list(document.notes)
    with ExitStack() as opened:
        clips = _Clips(opened, document.rate)
        placed = []
        for shot, name in zip(document.clips, names, strict=True):
            placed.append(_placed(clips, files[name], shot, report))
        first = clips.clip(placed[0].file).reader.facts
        size = document.size or (first.width, first.height)
        joins = list(_joins(document, baking, placed, report))
        cuts = [
            _planned(clips, placed[n : n + 2], join, n + 1, document.rate, report)
            for n, join in enumerate(joins)
        ]
    plan = EditPlan(document.name, size, document.rate, tuple(placed), tuple(cuts))
    return Baked(plan, report)


def _placed(clips: "_Clips", file: Path, shot: TimelineClip, report: list[str]) -> PlannedClip:
    """Return a clip as it is placed, with what an edit of ours says of it beside its frames."""
    clip, rate, kept = clips.clip(file), clips.rate, shot.kept
    facts = clip.reader.facts
    start = round(facts.start_frame * rate / facts.rate)
    found = placed_range(file.stem, shot, clip.count, rate, start)
    report += [note for note in found.notes if note not in report]
    return PlannedClip(
        file.stem,
        file,
        found.first,
        found.end,
        kept.framing,
        kept.muted,
        kept.gain_db,
        kept.crossfade,
        MarkedSubject(tuple(kept.strokes)) if kept.strokes else None,
        kept.deinterlaced,
        kept.shot,
    )


class _Clips:
    """Files opened once each, at the timeline's rate."""

    def __init__(self, opened: ExitStack, rate: Fraction) -> None:
        self._opened, self.rate = opened, rate
        self._clips: dict[Path, RateConvertedClip] = {}

    def clip(self, path: Path) -> RateConvertedClip:
        """Return the clip in a file."""
        if path not in self._clips:
            reader = self._opened.enter_context(VideoReader(path))
            self._clips[path] = RateConvertedClip(reader, self.rate)
        return self._clips[path]


def _joins(
    document: EditDocument, baking: Baking, placed: Sequence[PlannedClip], report: list[str]
) -> Iterator[TimelineCut]:
    """Yield the window and recipe of every cut, windows shortened to the frames of both clips."""
    lengths = [each.out_frame - each.in_frame for each in placed]
    count = 0
    suggested = _suggested(baking.recipe, document.rate)
    numbers = range(1, len(document.joins) + 1)
    if baking.cuts is not None and (beyond := sorted(baking.cuts - set(numbers))):
        raise InvalidValue(
            f"the timeline has {len(document.joins)} cuts, so {beyond[0]} is not one of them",
            field="--cuts",
        )
    for number, join, (before, after) in zip(
        numbers, document.joins, pairwise(lengths), strict=True
    ):
        # Each clip is shared by the windows at its two ends.
        room = (
            max(1, before // (2 if number > 1 else 1)),
            max(1, after // (2 if number < len(numbers) else 1)),
        )
        chosen = baking.cuts is None or number in baking.cuts
        if not chosen:
            yield replace(join, before=min(join.before, room[0]), after=min(join.after, room[1]))
            continue
        recipe = baking.recipe
        if baking.flip_alternate is not None and count % 2:
            recipe = flip(recipe, baking.flip_alternate)
        count += 1
        wanted = Window(min(suggested.before, room[0]), min(suggested.after, room[1]))
        if wanted != suggested:
            report.append(
                f"cut {number}: the window is {wanted.before} | {wanted.after} frames, not"
                f" {suggested.before} | {suggested.after}: the clips are too short"
            )
        yield TimelineCut(wanted.before, wanted.after, recipe)


def _suggested(recipe: Recipe, rate: Fraction) -> Window:
    if recipe.window is None:
        return Window(_USUAL_SIDE_FRAMES, _USUAL_SIDE_FRAMES)
    return recipe.window.at_rate(rate)


def _planned(
    clips: _Clips,
    sides: Sequence[PlannedClip],
    join: TimelineCut,
    number: int,
    rate: Fraction,
    report: list[str],
) -> PlannedCut:
    """Return the cut; where spare frames are missing, the nearest frame is held."""
    window, recipe = Window(join.before, join.after), join.recipe
    outgoing, incoming = (
        ClipLength(found.name, found.count, at, shot=shot)
        for found, at, shot in (
            (clips.clip(sides[0].file), sides[0].out_frame, sides[0].shot),
            (clips.clip(sides[1].file), sides[1].in_frame, sides[1].shot),
        )
    )
    transition = transition_between(Surrounded(outgoing, incoming), window, recipe, rate)
    try:
        require_frames(transition)
    except SpareFramesMissing:
        (short, *_) = shortages(transition)
        report.append(f"cut {number}: {short.sentence} The nearest frame is held.")
        recipe = recipe.model_copy(update={"hold_frames": True})
    except ShimmerError as error:
        report.append(f"cut {number}: left as a hard cut: {error.message}")
        recipe, window = Recipe(name="Hard cut"), Window(1, 1)
    return PlannedCut(window, recipe, number)


def _plain(name: str) -> str:
    return name.rsplit(".", 1)[0].casefold()
