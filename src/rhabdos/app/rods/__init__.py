"""What hands take hold of beside the figure: ruler, grips and tabs."""
