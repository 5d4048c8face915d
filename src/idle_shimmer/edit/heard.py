"""What is heard of an edit around one of its cuts: files, and the cuts whose accents may reach there, music."""

from collections.abc import Iterator

from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.media.sound.played_sound import HeardClip
from idle_shimmer.output.sound.edit_accents import HeardCut
from idle_shimmer.output.sound.laid_music import Music
from idle_shimmer.output.sound.window_sound import HeardSides
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.edits import edits
from idle_shimmer.store.tables import Edit, PlacedClip


def heard_sides(outgoing: PlacedClip, incoming: PlacedClip) -> HeardSides:
    """Return what is heard of the two clips of a cut."""
    return HeardSides(_heard(outgoing), _heard(incoming), outgoing.crossfade)


def _heard(placed: PlacedClip) -> HeardClip:
    return HeardClip(None if placed.muted else path_of(placed.clip.file), placed.gain_db)


def heard_cuts(edit: Edit, place: int, played: list[PlayedRange]) -> Iterator[HeardCut]:
    """Yield cut ``place`` and those next to it: a render of its window knows the same ones."""
    all_cuts = edits.cuts_of(edit)
    for near in range(max(0, place - 1), min(len(all_cuts), place + 2)):
        document = cuts.readable_document(all_cuts[near])
        frame = sum(each.frames for each in played[: near + 1])
        yield HeardCut(frame, Window(document.before, document.after), document.recipe)


def music_of(edit: Edit) -> Music | None:
    """Return the music of an edit; None without one."""
    if edit.music is None:
        return None
    file = path_of(edit.music.file)
    music = edit.music
    return Music(file, edit.music_offset_s, edit.music_gain_db, music.duration_s, music.name)
