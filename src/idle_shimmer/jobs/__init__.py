"""Durable jobs, kept in PostgreSQL and run by worker processes."""
