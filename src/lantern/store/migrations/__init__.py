"""Database migrations."""
