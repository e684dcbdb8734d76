"""Charts of few settings: bars of levels, and scatters."""
