"""What leaves the application: windows and edits as files, and round trips."""
