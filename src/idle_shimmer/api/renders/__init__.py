"""Routes about renders, and what is at work."""
