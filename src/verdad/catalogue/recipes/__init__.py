"""Recipes: from figures as a data sheet gives them to the text of a model. docs/catalogue.md explains each."""
