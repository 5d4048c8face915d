"""The demo clips and edit: an invented harbour on an evening of lanterns, drawn by computation."""
