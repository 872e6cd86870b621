"""The rehearsal: where it stops, what is in reach there, what it tells; no threads, no clock."""
