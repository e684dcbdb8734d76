"""How a page is divided among panels, and a panel among groups and forms."""
