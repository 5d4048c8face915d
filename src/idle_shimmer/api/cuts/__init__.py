"""Routes about one cut: its transition, variants, sound, subject."""
