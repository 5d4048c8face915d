"""Routes about an edit: its clips, cuts, film, music, exchange."""
