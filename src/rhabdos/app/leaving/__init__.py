"""What goes out: recipes, figures, tables, prints, and what was not saved."""
