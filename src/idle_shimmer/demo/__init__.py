"""Draws the demo clips and edit: an invented harbour on its lantern evening, all by computation."""
