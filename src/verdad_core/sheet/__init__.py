"""What the drawing says, beyond what is connected."""
