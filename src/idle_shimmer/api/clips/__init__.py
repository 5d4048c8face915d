"""Routes about clips: import, pictures, detections, storage."""
