"""Commands of the project that no user needs."""
