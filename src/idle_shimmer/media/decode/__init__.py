"""Decoding users' files in confined processes."""
