"""One module a migration."""
