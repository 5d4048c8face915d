"""Edits and their placed clips: rows, changes and history."""
