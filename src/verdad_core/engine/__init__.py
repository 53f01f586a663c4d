"""One structure, many rows: a circuit compiles once to a Structure, all that varies sits in a ParameterMatrix."""
