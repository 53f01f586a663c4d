"""Demo data: a made-up blast-vibration monitor for a quarry, and the model file of its made-up op-amp."""
