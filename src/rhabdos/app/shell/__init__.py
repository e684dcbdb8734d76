"""The window that holds all rooms, its menus, and its start."""
