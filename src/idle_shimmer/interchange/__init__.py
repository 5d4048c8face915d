"""Edits and curves in open formats: OpenTimelineIO, CMX 3600, CSV, and recipes as JSON Schema."""
