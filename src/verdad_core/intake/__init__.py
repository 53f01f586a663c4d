"""Model file -> subcircuits, pins with proposed roles, findings."""
