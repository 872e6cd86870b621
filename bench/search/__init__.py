"""The search otherwise: breaks things of pages in known ways, and asks why they are not found."""
