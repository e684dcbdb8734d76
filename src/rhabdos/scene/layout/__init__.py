"""Where everything stands on a page."""
