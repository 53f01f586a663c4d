"""The Board document, the one schema that API, database, command line and files share, and what is derived from it."""
