"""What people do in the yard, a module a sort of page."""
