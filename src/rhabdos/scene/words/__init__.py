"""Words on a page: broken into lines, placed, covered, and given up where they overlap."""
