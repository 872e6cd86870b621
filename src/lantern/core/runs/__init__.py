"""What a run is made of, and how it lives."""
