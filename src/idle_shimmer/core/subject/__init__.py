"""The subject of a shot: its matte, from strokes on a few frames, on every frame."""
