"""The shelf in the database: bundles and models kept, found again, and followed from version to version."""
