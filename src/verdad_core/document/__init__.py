"""The Board document: what gets signed off, and its pieces."""
