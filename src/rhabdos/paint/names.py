"""What recipes within exported figures are called."""

RECIPE_FILE = "recipe.toml"
"""The file that is attached to a PDF."""
RECIPE_SPACE = "urn:rhabdos:recipe"
"""The name space of the element within an SVG."""
PNG_KEY = "rhabdos-recipe"
"""The keyword of the text within a PNG."""
