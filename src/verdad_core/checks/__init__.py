"""Checks: one experiment on a circuit, made ready, run, and read. With any of it come all kinds of check."""

from verdad_core.checks import kinds as kinds
