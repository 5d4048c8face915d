"""The recipe book: every recipe lands, on every shape of frame, at every rate, on real pictures."""

from fractions import Fraction

import numpy as np
import pytest

from idle_shimmer.book.entries import book, entry
from idle_shimmer.book.recipe_texts import summaries
from idle_shimmer.core import checks  # noqa: F401
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import CheckContext, check_all
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.render import frame_coverage
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.demo.build import build_clips
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.transition.checking import small_size
from idle_shimmer.transition.transition import Transition
from tests.conftest import ROOT

ENTRIES = list(book().values())
SIZE = (1280, 720)
# Windows and rates that every recipe must hold at (common practice).
WINDOWS = [Window(*sides) for sides in ((3, 4), (4, 7), (7, 6), (10, 10), (35, 35), (25, 25))]
RATES = (24, 25, 30, 50, 60)
# Rows of lanterns roll past for seconds, at a pace at which they are seen: the check has to say that they flash.
FLASHING = ("twenty-two-rolls",)
by_family = pytest.mark.parametrize(
    "recipe",
    [each for each in ENTRIES if each.family == each.slug],
    ids=lambda each: each.slug,
)
by_slug = pytest.mark.parametrize("recipe", ENTRIES, ids=lambda each: each.slug)


class Kept:
    """A demo clip, small and decoded whole."""

    def __init__(self, clip: RateConvertedClip) -> None:
        self.name, self.count = clip.name, clip.count
        assert self.count is not None
        self._frames = [clip.frame(n) for n in range(self.count)]

    def frame(self, number: int) -> Codes:
        return self._frames[number]


@pytest.fixture(scope="module")
def pair() -> tuple[Kept, Kept]:
    paths = {path.stem: path for path in build_clips(ROOT / "var" / "demo")}
    clips = (paths["lantern-rows"], paths["dusk-water"])
    one, other = (Kept(RateConvertedClip.open(path, small_size(SIZE))) for path in clips)
    return one, other


def transition(pair: tuple[Kept, Kept], recipe: object, window: Window) -> Transition:
    count = pair[0].count or 0
    return Transition(*pair, count - 40, 40, window, recipe)  # type: ignore[arg-type]


@by_slug
def test_it_passes_every_check_at_every_rate_and_shape(recipe: object) -> None:
    own = recipe.window  # type: ignore[attr-defined]
    # Its other directions are the same recipe, turned: they are seen upright.
    places = [(own, 25, (720, 1280))]
    if recipe.family == recipe.slug:  # type: ignore[attr-defined]
        places += [(own, 25, SIZE)]
        places += [(own, rate, SIZE) for rate in RATES if rate != 25]
        places += [(own, 25, (720, 720)), *((window, 25, SIZE) for window in WINDOWS)]
    for window, rate, size in places:
        timeline = Timeline(recipe.recipe, window, Fraction(rate), size)  # type: ignore[attr-defined]
        findings = check_all(CheckContext(timeline))
        faults = [(window, each) for each in findings if each.status != "ok"]
        # In other windows what rolls may be too fast to be seen: that is what the check is for.
        assert [each for each in faults if window == own or each[1].id != "legibility"] == []


@by_family
def test_on_demo_clips_it_lands_and_changes_most_where_it_says(recipe: object, pair: tuple) -> None:
    window = recipe.window  # type: ignore[attr-defined]
    made = transition(pair, recipe.recipe, window)  # type: ignore[attr-defined]
    # A second on both sides as well, where the clips are long enough.
    widest = max(40, window.before + 1, window.after + 1)
    around = range(-window.before - 25, window.after + 25)
    frames = {k: made.frame(k) for k in around if abs(k) <= widest}
    findings = check_all(CheckContext(made.timeline(SIZE), frames=frames.get))
    faults = [each.id for each in findings if each.status != "ok"]
    assert faults == (["flashes"] if recipe.slug in FLASHING else [])  # type: ignore[attr-defined]
    offsets = range(-window.before - 1, window.after + 1)
    shown = made.source_frames("outgoing", offsets[0]), made.source_frames("incoming", offsets[-1])
    for clip, offset, source in zip(pair, (offsets[0], offsets[-1]), shown, strict=True):
        assert np.array_equal(frames[offset], clip.frame(source.first))
    timeline = made.timeline(small_size(SIZE))
    assert all(frame_coverage(timeline, k).min() > 0.999 for k in window.offsets)
    changes = {k: np.abs(frames[k].astype(int) - frames[k - 1]).mean() for k in offsets[1:]}
    if "steady" in recipe.recipe.tags:  # type: ignore[attr-defined]
        return  # It says that it stays at its height: its ends look alike.
    middle = [k for k in changes if abs(window.u_of_frame(k)) < 0.75]
    assert max(changes, key=lambda k: changes[k]) in middle


def test_the_book_holds_what_an_editor_looks_for() -> None:
    assert len(ENTRIES) >= 40
    names = [each.recipe.name for each in ENTRIES]
    assert len(set(names)) == len(names)
    for each in ENTRIES:
        assert each.recipe.notes.endswith(".")
        assert each.recipe.tags
        assert each.recipe.window is not None
    assert entry("hidden-dissolve").needs.outgoing == 5
    assert entry("whip-left").needs.incoming == 0


def test_an_unknown_recipe_is_told_with_close_ones() -> None:
    with pytest.raises(InvalidValue, match="no recipe 'whip-back': did you mean whip-left"):
        entry("whip-back")


def test_the_list_without_the_core_says_what_the_book_says() -> None:
    assert list(summaries()) == [(each.slug, each.recipe.notes) for each in book().values()]
