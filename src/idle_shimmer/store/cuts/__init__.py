"""Cuts: their revisions, rows and variants."""
