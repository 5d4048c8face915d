"""Decoding, encoding and indexing of media files, through PyAV."""
