"""The HTTP interface: one router a file, errors translated in one place."""
