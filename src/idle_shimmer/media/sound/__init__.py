"""Sound of media files: read in parts, played at changing speeds, written as WAV."""
