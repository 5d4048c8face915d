"""What every request passes: hosts, sessions, errors, logs, health."""
