"""Everything about the machine: setting up, processes, the private database."""
