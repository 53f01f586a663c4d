"""Netlist text to a flat circuit: lines -> statements -> subcircuits, models and elements -> flat elements."""
