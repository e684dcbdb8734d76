"""How one sample differs from another."""
