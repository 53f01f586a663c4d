"""What goes out and comes in: netlists, parts lists, recordings."""
