"""Whether what is said of blind spots is so."""
