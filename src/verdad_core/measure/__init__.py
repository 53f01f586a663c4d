"""Named measurements: one number, with its unit, out of a check's traces."""
