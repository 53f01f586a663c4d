"""What the two commands need: tools of the machine, PostgreSQL, the built interface, kernels, the running service."""
