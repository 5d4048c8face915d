"""Accounts, and who makes a change."""
