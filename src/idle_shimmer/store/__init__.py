"""PostgreSQL: tables, migrations, queries."""
