"""The words of a figure: titles, names, cards, markup."""
