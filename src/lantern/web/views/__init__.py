"""The API, one module a resource."""
