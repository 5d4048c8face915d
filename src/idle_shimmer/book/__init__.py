"""The recipe book: the built-in recipes, each a JSON file named by its slug."""
