"""A transition of a stored edit of which only lengths and the recipe matter."""

from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.edits.edits import conformed_count
from idle_shimmer.store.edits.placed_clips import shot_of
from idle_shimmer.store.tables import Edit
from idle_shimmer.transition.transition import SlipRoom, Transition
from idle_shimmer.transition.without_pictures import ClipLength, Surrounded, transition_between


def described(
    edit: Edit, place: int, document: CutDocument, played: list[PlayedRange], room: SlipRoom
) -> Transition:
    """Return the transition at cut ``place`` of an edit."""
    rate = parse_rate(edit.rate)
    ends = played[place].end, played[place + 1].first
    outgoing, incoming = (
        ClipLength(
            each.clip.name,
            conformed_count(each.clip, rate),
            end,
            bool(each.strokes),
            shot_of(each),
        )
        for each, end in zip(edit.placed[place : place + 2], ends, strict=True)
    )
    window = Window(document.before, document.after)
    return transition_between(Surrounded(outgoing, incoming, room), window, document.recipe, rate)
