"""A stand-in for makers' sites: made-up makers with made-up parts, their model files and data sheets."""
