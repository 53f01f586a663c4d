"""The service: API, database, runs, demo data and the command line around verdad_core."""
