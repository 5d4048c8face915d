"""An edit of four small clips with speed ramps, a dissolve, a push and a filter, opened in this process."""

from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.framing import UNFRAMED, Framing
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.media.write.writer import SoundTrack, frame_of, writing
from idle_shimmer.output.plan import EditPlan, PlannedClip, PlannedCut

SIZE, RATE, COUNT = (96, 64), Fraction(25), 80
RECIPES: list[tuple[Window, dict]] = [
    (
        Window(6, 8),
        {
            "name": "Fast across",
            "mix": {"kind": "dissolve"},
            "retime": {
                "outgoing": {"speed": {"kind": "swell", "peak": 2.4}},
                "incoming": {"speed": {"kind": "swell", "peak": 0.3}, "sampling": "blend"},
            },
            "filters": [
                {"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.03}},
            ],
            "accepted": {"spare_frames": "the last frame may stand"},
        },
    ),
    (
        Window(5, 5),
        {
            "name": "Push",
            "mix": {"kind": "push", "from": "left"},
            "retime": {"incoming": {"speed": 2.0, "in_edit": "ripple", "sound": "mute"}},
        },
    ),
    (Window(4, 4), {"name": "Hard cut"}),
]


def picture(clip: int, number: int) -> NDArray[np.uint8]:
    """A frame that is like no other: noise that moves, in a colour of its own."""
    noise = np.random.default_rng(clip).integers(0, 256, (SIZE[1], SIZE[0], 3), np.uint8)
    moved = np.roll(noise, (2 * number, 3 * number), (0, 1))
    moved[:8, :8] = number
    return moved


def tone(clip: int) -> NDArray[np.float32]:
    """As much sound as a clip has pictures: a tone of its own."""
    at = np.arange(int(COUNT * 48_000 / RATE)) / 48_000
    wave = 0.3 * np.sin(2 * np.pi * 220 * (clip + 1) * at)
    return np.stack([wave, wave], axis=1).astype(np.float32)


def written_clips(folder: Path) -> list[Path]:
    """Four lossless clips in ``folder``."""
    paths = []
    for clip in range(4):
        paths.append(folder / f"clip {clip}.mkv")
        with writing(paths[-1], SIZE, RATE, tracks=[SoundTrack([tone(clip)])]) as writer:
            for number in range(COUNT):
                writer.write(frame_of(picture(clip, number)))
    return paths


def plan_of(paths: list[Path], *, framed: bool = False) -> EditPlan:
    """The edit of the clips; with ``framed`` the last one is moved in its frame."""
    framings = [UNFRAMED] * 3 + [Framing(turn=7, scale=1.2) if framed else UNFRAMED]
    return EditPlan(
        "Harbour evening",
        SIZE,
        RATE,
        tuple(
            PlannedClip(path.stem, path, 15, 65, framing)
            for path, framing in zip(paths, framings, strict=True)
        ),
        tuple(
            PlannedCut(window, recipe_from_json(recipe), number)
            for number, (window, recipe) in enumerate(RECIPES, 1)
        ),
    )
