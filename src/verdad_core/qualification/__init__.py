"""The bench: what a model does, measured by the engine, beside what its data sheet says."""
