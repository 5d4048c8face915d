"""Pictures for previews: a cache of decoded ones, and small copies of clips."""
