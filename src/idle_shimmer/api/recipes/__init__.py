"""Routes about recipes: the book, the catalogue, what fits."""
