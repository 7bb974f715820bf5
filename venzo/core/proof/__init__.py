"""Is the program right? It is read back as a controller would read it and held against what was meant."""
