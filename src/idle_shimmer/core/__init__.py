"""Pictures and numbers only: no web, no database, no files."""
