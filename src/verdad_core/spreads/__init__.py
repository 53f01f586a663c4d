"""How values may differ from part to part, and drawing rows of them."""
