"""Runs of studies: cut into row blocks, computed on Dask, each finished block committed to PostgreSQL."""
