"""The sound of an edit: joins, accents, music, and the sound around one cut."""
