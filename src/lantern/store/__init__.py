"""The database: models, migrations and queries."""
