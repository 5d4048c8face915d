"""Renders: their rows, segments and the choices of the Render dialog."""
