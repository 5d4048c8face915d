"""Draws mattes of composites whose truth is known, and writes how good they are and where they fail."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage import data
from tests.support.composites import composite, crossing, drawn, overlap

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.subject.propagate import mattes
from idle_shimmer.core.subject.views import seen

DOCS = Path("docs")
SHOWN = (0, 15, 30)
PANEL = (320, 180)
INK = (228, 233, 236)
TIMED = (1280, 720)
Frames = list[NDArray[np.uint8]]
Truth = list[NDArray[np.float32]]


@dataclass(frozen=True)
class Scene:
    """Frames whose true matte is known, and what is in them."""

    title: str
    made: Callable[[], tuple[Frames, Truth]]


def _blurred() -> tuple[Frames, Truth]:
    """A subject with a streak of 41 pixels; the ground stays sharp."""
    frames, truth = composite("chelsea", "coffee", 4, 0.8, 0.004)
    ground = cv2.resize(data.coffee(), frames[0].shape[1::-1]).astype(np.float32)
    kernel = np.full((1, 41), 1 / 41, np.float32)
    made, alphas = [], []
    for frame, alpha in zip(frames, truth, strict=True):
        soft = cv2.filter2D(alpha, -1, kernel)
        front = cv2.filter2D(frame * alpha[..., None], -1, kernel)
        made.append(np.rint(front + ground * (1 - soft[..., None])).astype(np.uint8))
        alphas.append(soft)
    return made, alphas


def _cut_off() -> tuple[Frames, Truth]:
    """A subject that comes into the frame: most of it is not seen on the frame that is marked."""
    return composite("astronaut", "coffee", 9, 0.2, 0.002, start=0.02)


SCENES = (
    Scene(
        "A cut-out that moves, turns and grows",
        lambda: composite("chelsea", "coffee", 4, 0.8, 0.004),
    ),
    Scene("Passes in front of another", lambda: crossing("chelsea", "astronaut", "coffee")),
    Scene("Over the very same picture", lambda: composite("coffee", "coffee", 4, 0.8, 0.004)),
    Scene("Motion blur", _blurred),
    Scene("Comes into the frame", _cut_off),
)


def main() -> None:
    """Write docs/subject.png and the table in docs/subject.md."""
    rows, lines = [], []
    for scene in SCENES:
        frames, truth = scene.made()
        found = _mattes(frames, truth)
        share = [overlap(found[n], truth[n]) for n in range(len(frames))]
        lines.append(
            f"| {scene.title} | {np.mean(share):.3f} | {min(share):.3f} at {int(np.argmin(share))} |"
        )
        rows.append(_row(scene.title, frames, found, share))
    cv2.imwrite(str(DOCS / "subject.png"), np.vstack(rows))
    text = (DOCS / "subject.md").read_text(encoding="utf-8")
    head, _, rest = text.partition("<!-- figures -->\n")
    _, _, tail = rest.partition("<!-- end of figures -->\n")
    table = "\n".join(
        [
            "| scene, 31 frames, strokes on frame 0 | overlap, mean | least |",
            "| --- | --- | --- |",
            *lines,
        ]
    )
    figures = f"{table}\n\nA frame of {TIMED[0]}×{TIMED[1]} took {_cost_s():.2f} s on the machine that wrote this.\n"
    made = f"{head}<!-- figures -->\n{figures}<!-- end of figures -->\n{tail}"
    (DOCS / "subject.md").write_text(made, encoding="utf-8")


def _mattes(frames: Frames, truth: Truth) -> dict[int, NDArray[np.float32]]:
    return dict(mattes(lambda n: frames[n], [drawn(truth[0])], 0, len(frames) - 1))


def _row(
    title: str, frames: Frames, found: dict[int, NDArray[np.float32]], share: list[float]
) -> Codes:
    panels = [cv2.resize(seen(frames[n], found[n], "overlay")[..., ::-1], PANEL) for n in SHOWN]
    row = np.hstack(panels)
    for place, n in enumerate(SHOWN):
        text = f"{title}, frame {n}: {share[n]:.2f}" if place == 0 else f"frame {n}: {share[n]:.2f}"
        at = (place * PANEL[0] + 8, PANEL[1] - 8)
        cv2.putText(row, text, at, cv2.FONT_HERSHEY_SIMPLEX, 0.4, INK, 1, cv2.LINE_AA)
    return np.asarray(row, np.uint8)


def _cost_s() -> float:
    """Return the seconds that a frame takes after the first."""
    frames, truth = composite("chelsea", "coffee", 4, 0.8, 0.004)
    large = [cv2.resize(each, TIMED) for each in frames[:11]]
    strokes = drawn(cv2.resize(truth[0], TIMED))
    coming = mattes(lambda n: large[n], [strokes], 0, 10)
    next(iter(coming))
    began = time.perf_counter()
    count = sum(1 for _ in coming)
    return (time.perf_counter() - began) / count


if __name__ == "__main__":
    main()
