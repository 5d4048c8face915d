"""Migrations of the database, run by Alembic."""
