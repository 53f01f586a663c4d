"""The report on a board: one page that a customer reads, made from core data without a browser."""
