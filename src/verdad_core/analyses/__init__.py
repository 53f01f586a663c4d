"""One analysis a file: settings and a Structure with its ParameterMatrix in, a frozen result out."""
