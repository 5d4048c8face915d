"""What the subject of a demo clip is, as an editor would mark it: on one frame, with a box and a line."""

from typing import Any

# By the place of the placed clip: the sail, on the frame that meets the cut.
STROKES: dict[int, list[dict[str, Any]]] = {
    2: [
        {
            "frame": 22,
            "box": [0.3, 0.0, 0.55, 1.0],
            "keep": [[[0.5, 0.3], [0.55, 0.5], [0.5, 0.92]]],
            "keep_sizes": [0.03],
        }
    ]
}
